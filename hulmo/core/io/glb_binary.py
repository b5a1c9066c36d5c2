"""The binary chunk of a glTF document, and the accessors and views into it."""

from typing import Any

import numpy as np
import pygltflib as gltf
from numpy.typing import NDArray

_KINDS = {
    np.dtype(np.float32): gltf.FLOAT,
    np.dtype(np.uint16): gltf.UNSIGNED_SHORT,
    np.dtype(np.uint32): gltf.UNSIGNED_INT,
}
_SHAPES = {1: gltf.SCALAR, 2: gltf.VEC2, 3: gltf.VEC3, 4: gltf.VEC4}


class Binary:
    """Collects the binary chunk and the accessors and views into it."""

    def __init__(self) -> None:
        self.parts: list[bytes] = []
        self.size = 0
        self.views: list[gltf.BufferView] = []
        self.accessors: list[gltf.Accessor] = []

    def view(self, data: bytes, target: int | None) -> int:
        """A view of bytes; its number."""
        self.views.append(gltf.BufferView(buffer=0, byteOffset=self.size, byteLength=len(data), target=target))
        padding = -len(data) % 4
        self.parts.append(data + b"\0" * padding)
        self.size += len(data) + padding
        return len(self.views) - 1

    def accessor(self, values: NDArray[Any], target: int | None, normalized: bool = False, extent: bool = False) -> int:
        """An accessor of a table; its number. `extent` has it say its least and greatest values."""
        flat = values.ndim == 1
        accessor = gltf.Accessor(
            bufferView=self.view(np.ascontiguousarray(values).tobytes(), target),
            componentType=_KINDS[values.dtype],
            count=values.shape[0],
            type=_SHAPES[1 if flat else values.shape[1]],
            normalized=normalized,
        )
        if extent:
            accessor.min = [float(value) for value in values.min(axis=0)]
            accessor.max = [float(value) for value in values.max(axis=0)]
        self.accessors.append(accessor)
        return len(self.accessors) - 1
