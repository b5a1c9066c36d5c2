# Sourced by ./hulmo-demo and ./run-tests: makes the environment in .venv, installs what is missing, compiles kernels.
# Wants: ROOT (the project's folder), for the tests WITH_TESTS=1, and for a virtual screen WITH_SCREEN=1.

say() { printf '%s\n' "hulmo set-up: $*" >&2; }

# Shared library (or command) on the left, the Debian package that brings it on the right.
NEEDED_LIBRARIES="
libEGL.so.1:libegl1
libGL.so.1:libgl1
libxkbcommon.so.0:libxkbcommon0
libxkbcommon-x11.so.0:libxkbcommon-x11-0
libdbus-1.so.3:libdbus-1-3
libfontconfig.so.1:libfontconfig1
libglib-2.0.so.0:libglib2.0-0
libxcb-cursor.so.0:libxcb-cursor0
libxcb-icccm.so.4:libxcb-icccm4
libxcb-image.so.0:libxcb-image0
libxcb-keysyms.so.1:libxcb-keysyms1
libxcb-randr.so.0:libxcb-randr0
libxcb-render-util.so.0:libxcb-render-util0
libxcb-shape.so.0:libxcb-shape0
libxcb-xinerama.so.0:libxcb-xinerama0
libxcb-xkb.so.1:libxcb-xkb1
"

missing_packages() {
    local known pair
    known=$(/sbin/ldconfig -p 2>/dev/null || ldconfig -p)
    for pair in $NEEDED_LIBRARIES; do
        case "$known" in *"${pair%%:*} "*) ;; *) echo "${pair##*:}" ;; esac
    done
    # the drivers behind libEGL and libGL are loaded by name, so they are looked for as files
    if ! ls /usr/lib/*/dri/*_dri.so >/dev/null 2>&1; then echo libgl1-mesa-dri; fi
    if ! ls /usr/lib/*/libEGL_*.so.0 >/dev/null 2>&1; then echo libegl-mesa0; fi
    if [ -z "$(find_python)" ] || ! "$(find_python)" -c 'import venv, ensurepip' >/dev/null 2>&1; then
        echo python3; echo python3-venv
    fi
    if [ "${WITH_SCREEN:-0}" = 1 ]; then
        command -v xvfb-run >/dev/null || echo xvfb
        command -v xauth >/dev/null || echo xauth
    fi
    if [ "${WITH_TESTS:-0}" = 1 ]; then
        command -v Xvfb >/dev/null || echo xvfb
        command -v node >/dev/null || echo nodejs
        command -v npm >/dev/null || echo npm
    fi
}

find_python() {
    local name
    for name in python3 python3.14 python3.13 python3.12 python3.11; do
        if command -v "$name" >/dev/null && "$name" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
            command -v "$name"
            return
        fi
    done
}

install_packages() {
    local wanted=$1 as=""
    [ -n "$wanted" ] || return 0
    if ! command -v apt-get >/dev/null; then
        say "these packages are missing: $wanted. Install them with your system's package manager, then run this again."
        exit 1
    fi
    if [ "$(id -u)" != 0 ]; then
        if command -v sudo >/dev/null && sudo -n true 2>/dev/null; then
            as="sudo"
        else
            say "system packages are missing. Run this, then try again:"
            printf '  sudo apt-get update && sudo apt-get install --no-install-recommends %s\n' "$wanted" >&2
            exit 1
        fi
    fi
    say "installing system packages: $wanted"
    $as env DEBIAN_FRONTEND=noninteractive apt-get update -qq >/dev/null 2>&1 || say "apt-get update failed; trying with the lists at hand"
    # shellcheck disable=SC2086
    if ! $as env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $wanted >"$ROOT/.setup-log" 2>&1; then
        tail -n 15 "$ROOT/.setup-log" >&2
        say "apt-get could not install: $wanted"
        exit 1
    fi
    rm -f "$ROOT/.setup-log"
}

make_environment() {
    local python stamp want
    python=$(find_python)
    want=$( { cat "$ROOT/requirements.txt"; [ "${WITH_TESTS:-0}" = 1 ] && cat "$ROOT/requirements-dev.txt"; "$python" --version; } | sha256sum | cut -c1-16)
    stamp="$ROOT/.venv/ready-$want"
    if [ ! -e "$stamp" ]; then
        if [ ! -x "$ROOT/.venv/bin/python" ]; then
            say "making the environment in .venv with $("$python" --version)"
            "$python" -m venv "$ROOT/.venv" || exit 1
        fi
        say "installing pinned Python packages (a minute or two the first time)"
        local list=(-r "$ROOT/requirements.txt")
        if [ "${WITH_TESTS:-0}" = 1 ]; then list+=(-r "$ROOT/requirements-dev.txt"); fi
        "$ROOT/.venv/bin/python" -m pip install -q --disable-pip-version-check "${list[@]}" || exit 1
        "$ROOT/.venv/bin/python" -m pip install -q --disable-pip-version-check --no-deps -e "$ROOT" || exit 1
        touch "$stamp"
    fi
}

install_packages "$(missing_packages | sort -u | tr '\n' ' ' | sed 's/ $//')"
make_environment
"$ROOT/.venv/bin/python" -m hulmo.core.kernel_cache || exit 1
