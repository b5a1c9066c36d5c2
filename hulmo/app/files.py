"""Asking for file names and for what to do with unsaved work. Nothing here blocks: answers come by callback."""

import pathlib
from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QFileDialog, QGridLayout, QMessageBox, QWidget

from hulmo.app.label import Label

MESHES = "Meshes (*.obj *.ply *.stl *.glb *.gltf *.usdc *.usda *.usdz *.usd)"

PROJECT_FILTER = "Hulmo projects (*.hulmo)"


def ask_open(parent: QWidget, start: pathlib.Path, then: Callable[[pathlib.Path], None]) -> QFileDialog:
    """Ask for a project to open."""
    return _show(_dialog(parent, "Open a project", start, PROJECT_FILTER), then)


def ask_folder(parent: QWidget, start: pathlib.Path, then: Callable[[pathlib.Path], None]) -> QFileDialog:
    """Ask for a folder with texture images."""
    return _show(_dialog(parent, "Folder with albedo, normal, roughness and height images", start, ""), then)


def ask_texture(parent: QWidget, start: pathlib.Path, then: Callable[[pathlib.Path], None]) -> QFileDialog:
    """Ask for one image of a texture set."""
    kinds = "Images (*.png *.jpg *.jpeg *.tif *.tiff *.bmp *.webp *.tga)"
    return _show(_dialog(parent, "One image of the set, such as its albedo", start, kinds), then)


def ask_image(parent: QWidget, then: Callable[[pathlib.Path], None]) -> QFileDialog:
    """Ask for a grey image."""
    return _show(
        _dialog(parent, "Image to lay as relief", pathlib.Path.home(), "Images (*.png *.tif *.tiff *.jpg *.jpeg)"), then
    )


def ask_place(parent: QWidget, title: str, start: pathlib.Path, then: Callable[[pathlib.Path], None]) -> QFileDialog:
    """Ask for a folder to write into."""
    return _show(_dialog(parent, title, start, ""), then)


def ask_sky(parent: QWidget, start: pathlib.Path, then: Callable[[pathlib.Path], None]) -> QFileDialog:
    """Ask for a picture of the sky."""
    return _show(
        _dialog(parent, "A picture of all directions", start, "Skies (*.hdr *.exr *.png *.jpg *.jpeg *.tif *.tiff)"),
        then,
    )


def ask_profile(parent: QWidget, start: pathlib.Path, then: Callable[[pathlib.Path], None]) -> QFileDialog:
    """Ask for a delivery profile."""
    return _show(_dialog(parent, "A delivery profile", start, "Delivery profiles (*.json)"), then)


def ask_delivered(parent: QWidget, start: pathlib.Path, then: Callable[[pathlib.Path], None]) -> QFileDialog:
    """Ask for a delivered file."""
    return _show(
        _dialog(parent, "A delivered file to draw", start, "Delivered files (*.glb *.gltf *.usdc *.usda *.usdz)"), then
    )


def ask_painted(parent: QWidget, start: pathlib.Path, then: Callable[[pathlib.Path], None]) -> QFileDialog:
    """Ask for a note of painted images, or for one image."""
    kinds = "Notes and images (*.paint.json *.png *.tif *.tiff *.jpg *.jpeg)"
    return _show(_dialog(parent, "The note beside painted images, or one image", start, kinds), then)


PARTS = (("one", "One body"), ("regions", "One body with regions"), ("bodies", "A body for each"))


def ask_mesh(parent: QWidget, start: pathlib.Path, then: Callable[[pathlib.Path, str], None]) -> QFileDialog:
    """Ask for a mesh to import, and what becomes of its parts where it has several: "one", "regions" or "bodies"."""
    dialog = _dialog(parent, "Import a mesh", start, MESHES)
    parts = QComboBox()
    parts.setAccessibleName("Parts of the file")
    parts.setToolTip("What objects, groups and nodes of the file become, where it has several")
    for value, label in PARTS:
        parts.addItem(label, value)
    grid = dialog.layout()
    if isinstance(grid, QGridLayout):
        row = grid.rowCount()
        grid.addWidget(Label("Parts become"), row, 0)
        grid.addWidget(parts, row, 1)
    return _show(dialog, lambda path: then(path, str(parts.currentData())))


def ask_prop(parent: QWidget, start: pathlib.Path, then: Callable[[pathlib.Path], None]) -> QFileDialog:
    """Ask for the mesh of a prop."""
    return _show(_dialog(parent, "A prop for the tray", start, MESHES), then)


def ask_json(parent: QWidget, title: str, then: Callable[[pathlib.Path], None]) -> QFileDialog:
    """Ask for a JSON file to read."""
    return _show(_dialog(parent, title, pathlib.Path.home(), "*.json"), then)


def ask_save(
    parent: QWidget, title: str, start: pathlib.Path, ending: str, then: Callable[[pathlib.Path], None]
) -> QFileDialog:
    """Ask for a file to write; the ending is added when it is left out."""
    dialog = _dialog(parent, title, start.parent, f"*.{ending}")
    dialog.setFileMode(QFileDialog.FileMode.AnyFile)
    dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
    dialog.setDefaultSuffix(ending)
    dialog.selectFile(start.name)
    return _show(dialog, then)


def ask_unsaved(parent: QWidget, name: str, save: Callable[[], None], leave: Callable[[], None]) -> QMessageBox:
    """Ask what to do with unsaved work: save it, drop it, or stay."""
    words = ("Unsaved work", f"“{name}” has changes that are in no file.", "Save them first?")
    return _question(parent, words, ("Save", save), ("Drop changes", leave))


def ask_changed(
    parent: QWidget, path: pathlib.Path, over: Callable[[], None], beside: Callable[[], None]
) -> QMessageBox:
    """Ask what to do when somebody else has written the file that is saved to: keep both, replace it, or stay."""
    words = (
        "Changed elsewhere",
        f"{path.name} was saved by another program or window since it was opened here.",
        "Keep both by saving this one under another name?",
    )
    return _question(parent, words, ("Keep both…", beside), ("Replace it", over))


def ask_many(parent: QWidget, what: str, go: Callable[[], None]) -> QMessageBox:
    """Ask before something becomes much larger than it was."""
    words = ("A large step", what, "That takes a while, and drawing takes longer from then on.")
    return _question(parent, words, ("Go on", go), None)


def _question(
    parent: QWidget,
    words: tuple[str, str, str],
    keep: tuple[str, Callable[[], None]],
    lose: tuple[str, Callable[[], None]] | None,
) -> QMessageBox:
    # title, what is the case, what is asked; an answer that loses nothing, maybe one that loses something, and none at all
    box = QMessageBox(parent)
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setWindowTitle(words[0])
    box.setText(words[1])
    box.setInformativeText(words[2])
    first = box.addButton(keep[0], QMessageBox.ButtonRole.AcceptRole)
    other = None if lose is None else box.addButton(lose[0], QMessageBox.ButtonRole.DestructiveRole)
    box.addButton("Stay here", QMessageBox.ButtonRole.RejectRole)
    box.setDefaultButton(first if hasattr(first, "click") else None)

    def answered() -> None:
        if box.clickedButton() is first:
            keep[1]()
        elif lose is not None and box.clickedButton() is other:
            lose[1]()

    box.finished.connect(answered)
    box.open()
    return box


def _dialog(parent: QWidget, title: str, start: pathlib.Path, kinds: str) -> QFileDialog:
    # for a file that is there, of some kinds; a folder where no kinds are named
    dialog = QFileDialog(parent, title, str(start), kinds)
    dialog.setFileMode(QFileDialog.FileMode.ExistingFile if kinds else QFileDialog.FileMode.Directory)
    dialog.setOption(QFileDialog.Option.DontUseNativeDialog)
    dialog.resize(720, 460)
    return dialog


def _show(dialog: QFileDialog, then: Callable[[pathlib.Path], None]) -> QFileDialog:
    dialog.fileSelected.connect(lambda name: then(pathlib.Path(name)))
    dialog.finished.connect(dialog.deleteLater)
    dialog.open()
    return dialog
