"""A hand-over: a delivery with its readiness report, and a web page that shows it in any browser, without a network."""

import base64
import html
import json
import pathlib
from typing import Any

import msgspec

import hulmo
import hulmo.assets
from hulmo.core.deliver.kept import MANIFEST
from hulmo.core.deliver.parts import finest_of
from hulmo.core.deliver.profile import Profile
from hulmo.core.deliver.smaller_images import with_smaller_images
from hulmo.core.deliver.write import Delivered, deliver_to
from hulmo.core.file_name import safe_name
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project
from hulmo.core.ready import findings
from hulmo.core.ready.finding import Finding

PAGE, REPORT = "index.html", "readiness.json"

TEMPLATE = pathlib.Path(hulmo.assets.__file__).parent / "handover" / "page.html"

MOST = 60_000_000
"""Bytes of files that are put into the page; what is beyond is not shown on it."""


def hand_over(project: Project, profile: Profile, folder: pathlib.Path, progress: Progress) -> Delivered:
    """Deliver, with report and page.

    Raises
    ------
    InvalidInput, FileProblem
    """
    found, waived = findings(project, profile, progress.part(0.0, 0.2))
    told = report(project, profile, found, waived)
    more = {
        REPORT: lambda done: json.dumps(told, ensure_ascii=False, indent=1).encode(),
        PAGE: lambda done: page(project, profile, done, found).encode(),
    }
    return deliver_to(project, profile, folder, progress.part(0.2, 1.0), more)


def report(project: Project, profile: Profile, found: list[Finding], waived: list[Finding]) -> dict[str, Any]:
    """What readiness found, as plain values."""
    reasons = {(entry.check, entry.body): entry.reason for entry in project.waivers}
    return {
        "written_by": f"Hulmo {hulmo.__version__}",
        "project": project.name,
        "profile": profile.name,
        "ready": not any(entry.fails for entry in found),
        "findings": [
            {
                "check": entry.check,
                "body": entry.body,
                "count": entry.count,
                "fails": entry.fails,
                "what": entry.words,
                "advice": entry.advice,
                "cure": None if entry.cure is None else msgspec.to_builtins(entry.cure),
            }
            for entry in found
        ],
        "waived": [
            {"check": e.check, "body": e.body, "what": e.words, "reason": reasons[e.check, e.body]} for e in waived
        ],
    }


def page(project: Project, profile: Profile, done: Delivered, found: list[Finding]) -> str:
    """The web page, with the finest level of every piece in it as far as there is room."""
    shown = [base64.b64encode(data).decode() for data in _shown(project, profile, done)]
    fields = {
        "TITLE": html.escape(project.name),
        "ABOUT": html.escape(f"{profile.name}. {profile.about}"),
        "ASIDE": _aside(done, found),
        "FILES": json.dumps(shown),
    }
    out = TEMPLATE.read_text(encoding="utf-8")
    for name, text in fields.items():
        out = out.replace(f"@{name}@", text)
    return out


def _shown(project: Project, profile: Profile, done: Delivered) -> list[bytes]:
    # plain GLB of the finest level: the files themselves, or where they are something else the same meshes as such
    if profile.format != "glb" or profile.settings.get("size", "plain") != "plain":
        from hulmo.core.io.glb_document import glb_document  # slow to import, and needed nowhere else

        data = glb_document(
            finest_of(with_smaller_images(project, profile.texture), done.pieces, profile),
            "mean",
            silent(),
            props="none",
        )
        return [data] if len(data) <= MOST else []
    finest = {f"{safe_name(piece.name)}.glb" for piece in done.pieces}
    out, size = [], 0
    for name in done.files:
        if name.endswith(".glb") and (name in finest or profile.files == "one"):
            data = (done.folder / name).read_bytes()
            size += len(data)
            if size > MOST:
                break
            out.append(data)
    return out


def _aside(done: Delivered, found: list[Finding]) -> str:
    rows = [
        f"<tr><td>{html.escape(piece.name)}</td>"
        f'<td class="number">{level.triangles:,}</td><td class="number">{level.error:.3g} m</td></tr>'
        for piece in done.pieces
        for level in piece.told
    ]
    files = [
        f'<tr><td>{html.escape(name)}</td><td class="number">{(done.folder / name).stat().st_size / 1e3:,.0f} kB</td></tr>'
        for name in done.files
    ]
    told = [
        f'<li class="{"fails" if entry.fails else "quiet"}">{html.escape(f"{entry.body}: " if entry.body else "")}'
        f"{html.escape(entry.words)}. {html.escape(entry.advice)}.</li>"
        for entry in found
    ]
    return (
        "<h2>Meshes</h2><table><tr><th>name</th><th>triangles</th><th>off</th></tr>" + "".join(rows) + "</table>"
        "<h2>Files</h2><table>" + "".join(files) + "</table>"
        "<h2>Readiness</h2>" + (f"<ul>{''.join(told)}</ul>" if told else "<p>Nothing was found.</p>")
        + f'<p class="quiet">See {MANIFEST} for bounds, neighbours and distances.</p>'
    )  # fmt: skip
