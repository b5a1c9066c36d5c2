"""Reading Universal Scene Description, by its own library, as far as it takes to draw it by the shaders that stand in it."""

import io
import json
import math
import pathlib
import zipfile
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from hulmo.core.errors import FileProblem
from hulmo.receive.glb import LARGEST, MOST_PIXELS, Drawn, Eye

ENDINGS = (".usdc", ".usda", ".usdz", ".usd")

TO_Y_UP = np.array([[1.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, -1.0, 0.0]])
"""From X east, Y north, Z up to X east, Y up, Z south."""


class UsdFile:
    """What stands in a stage; the same questions as of `Glb`.

    Parameters
    ----------
    path : Path

    Raises
    ------
    FileProblem
        Damaged, or not written by this program; the message says where.
    """

    def __init__(self, path: pathlib.Path) -> None:
        from pxr import Tf, Usd, UsdGeom  # slow to import, and needed nowhere else

        self._path = path
        try:
            self._stage = Usd.Stage.Open(str(path))
        except Tf.ErrorException as error:
            raise FileProblem(f"{path}: is damaged ({str(error).strip().splitlines()[-1]})") from error
        self._scale = float(UsdGeom.GetStageMetersPerUnit(self._stage))
        self._turn = TO_Y_UP if UsdGeom.GetStageUpAxis(self._stage) == "Z" else np.eye(3)
        note = self._stage.GetRootLayer().customLayerData.get("hulmo")
        try:
            self.hulmo: dict[str, Any] = json.loads(note) if isinstance(note, str) else {}
        except (ValueError, RecursionError) as error:
            raise FileProblem(
                f"{path}: what it says of itself (customLayerData, hulmo) is damaged ({error})"
            ) from error
        if not isinstance(self.hulmo, dict):
            raise FileProblem(f"{path}: what it says of itself (customLayerData, hulmo) is no object")

    @property
    def shaders(self) -> dict[str, Any]:
        """Shaders that stand in the file; empty where there are none."""
        found = self.hulmo.get("shader", {})
        return found if isinstance(found, dict) else {}

    def image(self, number: int) -> NDArray[np.uint8]:
        """(H, W, 3) an image as it is stored."""
        files = self.hulmo.get("image_files", [])
        if not isinstance(files, list) or not 0 <= number < len(files):
            raise FileProblem(f"{self._path}: names image {number}, which is not there")
        name = str(files[number])
        try:
            with Image.open(io.BytesIO(self._bytes(name))) as picture:
                if picture.size[0] * picture.size[1] > MOST_PIXELS:
                    raise FileProblem(f"{self._path}: image {name!r} has too many pixels")
                return np.asarray(picture.convert("RGB"))
        except (OSError, ValueError, SyntaxError, zipfile.BadZipFile, KeyError) as error:
            raise FileProblem(f"{self._path}: image {name!r} is missing or damaged ({error})") from error

    def _bytes(self, name: str) -> bytes:
        parts = pathlib.PurePosixPath(name).parts
        if name.startswith("/") or ".." in parts or ":" in name:
            raise FileProblem(f"{self._path}: names the image {name!r}, which does not lie beside it")
        if self._path.suffix.lower() == ".usdz":
            with zipfile.ZipFile(self._path) as package:
                if package.getinfo(name).file_size > LARGEST:
                    raise FileProblem(f"{self._path}: image {name!r} is too large")
                return package.read(name)
        return (self._path.parent / name).read_bytes()

    def parts(self) -> list[Drawn]:
        """Meshes that shares of grounds lie on."""
        from pxr import UsdGeom

        out = [
            self._part(prim)
            for prim in self._stage.Traverse()
            if prim.IsA(UsdGeom.Mesh) and UsdGeom.PrimvarsAPI(prim).HasPrimvar("ground_0")
        ]
        if not out:
            raise FileProblem(f"{self._path}: has no mesh with shares of grounds; there is nothing to draw")
        return out

    def _part(self, prim: Any) -> Drawn:
        from pxr import UsdGeom

        mesh, primvars = UsdGeom.Mesh(prim), UsdGeom.PrimvarsAPI(prim)
        where = f"{self._path}: {prim.GetPath()}"
        place = np.array(mesh.GetPointsAttr().Get(), np.float32).reshape(-1, 3)
        counts = np.array(mesh.GetFaceVertexCountsAttr().Get())
        triangles = np.array(mesh.GetFaceVertexIndicesAttr().Get(), np.int64)
        if not counts.size or (counts != 3).any() or triangles.size != 3 * counts.size:
            raise FileProblem(f"{where} is no mesh of triangles")
        if triangles.min() < 0 or triangles.max() >= len(place):
            raise FileProblem(f"{where} has triangles of vertices that are not there")
        attributes = {"POSITION": place, "NORMAL": np.array(mesh.GetNormalsAttr().Get(), np.float32).reshape(-1, 3)}
        uv = self._values(primvars, "st", 2)
        if uv is not None:
            attributes["TEXCOORD_0"] = np.column_stack((uv[:, 0], 1 - uv[:, 1]))
        shares: list[NDArray[np.float32]] = []
        while (share := self._values(primvars, f"ground_{len(shares)}", 1)) is not None:
            shares.append(share)
        for first in range(0, len(shares), 4):
            four = np.zeros((len(place), 4), np.float32)
            four[:, : len(shares[first : first + 4])] = np.concatenate(shares[first : first + 4], axis=1)
            attributes[f"_GROUND_{first // 4}"] = four
        tint, cover = self._values(primvars, "tint", 3), self._values(primvars, "tint_cover", 1)
        if tint is not None and cover is not None:
            attributes["_TINT"] = np.concatenate((tint, cover), axis=1)
        if any(len(values) != len(place) or not np.isfinite(values).all() for values in attributes.values()):
            raise FileProblem(f"{where} has values that are not finite, or not one for each vertex")
        moved = self._matrix(prim)
        metres = float(moved[0, 0])
        if not metres > 0 or np.abs(moved[:3, :3] - metres * np.eye(3)).max() > 1e-6 * metres:
            raise FileProblem(f"{where} is turned or stretched, which this receiver does not draw")
        extras = {"metres_per_uv": value} if (value := prim.GetCustomDataByKey("hulmo:metres_per_uv")) else {}
        name = prim.GetDisplayName() or prim.GetName()
        return Drawn(name, moved[:3, 3], attributes, triangles.reshape(-1, 3).astype(np.uint32), extras, {}, metres)

    def eyes(self) -> list[Eye]:
        """Cameras, in the order of the file."""
        from pxr import UsdGeom

        out = []
        for prim in self._stage.Traverse():
            if prim.IsA(UsdGeom.Camera):
                lens = UsdGeom.Camera(prim).GetCamera(0.0)
                frustum = lens.frustum
                place = self._turn @ np.array(frustum.GetPosition()) * self._scale
                ahead = self._turn @ np.array(frustum.ComputeViewDirection())
                name = prim.GetDisplayName() or prim.GetName()
                out.append(Eye(name, place, place + ahead, float(lens.GetFieldOfView(lens.FOVVertical))))
        return out

    def _values(self, primvars: Any, name: str, width: int) -> NDArray[np.float32] | None:
        found = primvars.GetPrimvar(name)
        if not found or found.Get() is None:
            return None
        return np.array(found.ComputeFlattened(), np.float32).reshape(-1, width)

    def _matrix(self, prim: Any) -> NDArray[np.float64]:
        # from the mesh's own coordinates to metres with +Y up
        from pxr import UsdGeom

        own = np.array(UsdGeom.XformCache().GetLocalToWorldTransform(prim)).T
        out = np.eye(4)
        out[:3, :3] = self._turn @ own[:3, :3] * self._scale
        out[:3, 3] = self._turn @ own[:3, 3] * self._scale
        if not np.isfinite(out).all() or math.isinf(self._scale):
            raise FileProblem(f"{self._path}: {prim.GetPath()} stands nowhere")
        return out
