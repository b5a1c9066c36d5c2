#!/usr/bin/env bash
# Adds Hulmo to the menu of this user's desktop, with its icon and the file type .hulmo. Run ./hulmo-demo once before.
set -eu
ROOT=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
[ -x "$ROOT/.venv/bin/hulmo" ] || { echo "run ./hulmo-demo first: it makes the environment" >&2; exit 1; }
DATA=${XDG_DATA_HOME:-$HOME/.local/share}
mkdir -p "$DATA/applications" "$DATA/mime/packages" "$DATA/icons/hicolor/scalable/apps"
sed "s|^Exec=hulmo|Exec=\"$ROOT/.venv/bin/hulmo\"|" "$ROOT/hulmo/assets/linux/hulmo.desktop" >"$DATA/applications/hulmo.desktop"
cp "$ROOT/hulmo/assets/linux/hulmo-mime.xml" "$DATA/mime/packages/hulmo.xml"
cp "$ROOT/hulmo/assets/icons/hulmo.svg" "$DATA/icons/hicolor/scalable/apps/hulmo.svg"
if command -v update-mime-database >/dev/null; then update-mime-database "$DATA/mime"; fi
if command -v update-desktop-database >/dev/null; then update-desktop-database "$DATA/applications"; fi
echo "Hulmo is in the menu; .hulmo files open with it."
