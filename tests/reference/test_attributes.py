"""Attributes of vertices, corners, faces and edges through every operation that changes the mesh.

The surface is flat or made of flat sides, and what is known of it is a closed form of the place: what an operation carries is
compared with that form at the places it makes. Booleans are held against the same cut made by manifold3d alone, with the
coordinates on the image as extra columns of the vertices.
"""

import pathlib
import tempfile
import unittest

import manifold3d
import numpy as np

from hulmo.core.commands import (
    AddBody,
    Bore,
    Combine,
    DuplicateBody,
    FillBorders,
    FlipFaces,
    JoinBodies,
    MirrorBody,
    Recast,
    Reduce,
    SplitBody,
    Subdivide,
    Weld,
)
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.mesh.body import Body
from hulmo.core.sound import check_project
from tests.bodies import project_with, stroke

SLOPE = np.array([[1.0, 0.5], [2.0, -1.0], [0.25, 3.0]])
"""What lies at corners is the place times this, and APART more on one side of x = 0."""

APART = 100.0


def side_of(body: Body) -> np.ndarray:
    """(M,) whether the middle of each triangle slot has x > 0."""
    return np.asarray(body.vertices["position"][body.corners.triangles].mean(axis=1)[:, 0] > 0)


def on_line(body: Body, within: float = 1e-5) -> np.ndarray:
    """(M, 3) whether the edge across each corner lies on x = 0."""
    near = np.abs(body.vertices["position"][body.corners.triangles][..., 0]) < within
    return np.stack((near[:, 1] & near[:, 2], near[:, 2] & near[:, 0], near[:, 0] & near[:, 1]), axis=1)


def tell(body: Body) -> None:
    """Give a body a column in each domain."""
    slots, position = body.corners.slots, body.vertices["position"]
    side = side_of(body)
    slots.set("face", "half", side[:, None, None].astype(np.float32))
    corner = position[body.corners.triangles].astype(np.float64) @ SLOPE + APART * side[:, None, None]
    slots.set("corner", "place", corner)
    slots.set("edge", "line", 2.0 * on_line(body)[..., None].astype(np.float32))
    body.vertices.set_column("height", position @ np.array([[1.0], [2.0], [3.0]], np.float32))


class CarriedTest(unittest.TestCase):
    def begin(self, form: str, **values: float) -> History:
        history = project_with(form, **values)
        tell(history.project.bodies[0])
        return history

    def check(self, history: History, away: float = 1e-4, lines: float | None = None, what: str = "") -> None:
        check_project(history.project)
        for body in history.project.bodies:
            live = body.corners.triangles[:, 0] >= 0
            slots, position = body.corners.slots, body.vertices["position"].astype(np.float64)
            side = side_of(body)[live]
            np.testing.assert_array_equal(slots["half"][live, 0, 0] > 0.5, side, what)
            expected = position[body.corners.triangles[live]] @ SLOPE + APART * side[:, None, None]
            np.testing.assert_allclose(slots["place"][live], expected, atol=10 * away, err_msg=what)
            used = np.unique(body.corners.triangles[live])
            expected = position[used] @ np.array([[1.0], [2.0], [3.0]])
            np.testing.assert_allclose(body.vertices["height"][used], expected, atol=10 * away, err_msg=what)
        body = history.project.bodies[0]
        live = body.corners.triangles[:, 0] >= 0
        marked = body.corners.slots["line"][live, :, 0] != 0
        if lines is None:  # exactly the edges that lie there, and nothing is lost of how much it was
            np.testing.assert_array_equal(marked, on_line(body)[live], what)
            self.assertEqual(set(body.corners.slots["line"][live][marked].reshape(-1).tolist()), {2.0})
        else:
            self.assertAlmostEqual(self.length(body), lines, delta=0.02 * lines, msg=what)
            self.assertFalse((marked & ~on_line(body, 0.02)[live]).any(), what)

    def length(self, body: Body) -> float:
        """Metres of the edges that are marked."""
        slot, side = np.nonzero(body.corners.slots["line"][..., 0] * (body.corners.triangles[:, :1] >= 0))
        at = body.vertices["position"].astype(np.float64)[body.corners.triangles[slot]]
        each = np.linalg.norm(
            at[np.arange(slot.size), (side + 1) % 3] - at[np.arange(slot.size), (side + 2) % 3], axis=1
        )
        border = body.corners.opposite.reshape(-1, 3)[slot, side] < 0
        return float(each[border].sum() + each[~border].sum() / 2)

    def test_every_operation_on_a_sheet(self) -> None:
        growing = {"grow": "both", "edge": 0.2, "radius": 1.5}
        for commands in (
            [Subdivide("Body", False)],
            [stroke("refine", (-1, 0, -1), (0.5, 0, 1), radius=1.5, edge=0.15)],
            [stroke("refine", (0, 0, 0), radius=1.5, edge=0.1), stroke("thin_out", (0, 0, 0), radius=2.0, edge=0.9)],
            [stroke("raise", (0.3, 0, 0), height=0.0, **growing)],
            [FlipFaces("Body")],
            [Weld("Body", 0.01)],
            [DuplicateBody("Body", "Other"), JoinBodies("Body", "Other"), SplitBody("Body")],
            [MirrorBody("Body", "z"), MirrorBody("Body", "z")],
        ):
            history = self.begin("sheet", size=6.0, depth=6.0, edge=0.5)
            name = " ".join(type(command).__name__ for command in commands)
            before = self.state(history)
            for command in commands:
                history.do(command)
                check_project(history.project)
            self.check(history, what=name)
            self.reopened(history)
            after = self.state(history)
            for _ in commands:
                history.undo()
            self.assertEqual(self.state(history), before, name)
            for _ in commands:
                history.redo()
            self.assertEqual(self.state(history), after, name)

    def state(self, history: History) -> list[object]:
        out: list[object] = []
        for body in history.project.bodies:
            arrays = [body.corners.slots[name] for name in body.corners.slots.names()]
            arrays += [body.corners.vertex, body.vertices["position"]]
            out += [body.name, *body.corners.slots.layout(), *(hash(array.tobytes()) for array in arrays)]
        return out

    def reopened(self, history: History) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = pathlib.Path(folder) / "a.hulmo"
            save_project(history.project, path)
            again = open_project(path)
        for body, other in zip(history.project.bodies, again.bodies, strict=True):
            live = body.corners.triangles[:, 0] >= 0
            self.assertEqual(list(body.corners.slots.layout()), list(other.corners.slots.layout()))
            for name in body.corners.slots.names():
                np.testing.assert_array_equal(body.corners.slots[name][live], other.corners.slots[name])

    def test_a_hole_is_filled_and_what_is_new_is_nothing(self) -> None:
        history = self.begin("sheet", size=6.0, depth=6.0, edge=0.5)
        count = history.project.bodies[0].corners.count
        history.do(FillBorders("Body"))
        slots = history.project.bodies[0].corners.slots
        self.assertFalse(any(slots[name][count:].any() for name in ("half", "place")))
        check_project(history.project)

    def test_meshes_made_anew_on_flat_sides(self) -> None:
        for command in (Recast("Body", 0.3, "surface"), Recast("Body", 0.8, "surface"), Reduce("Body", share=0.5)):
            history = self.begin("block", size=4.0, height=4.0, depth=4.0, edge=0.5)
            history.do(command)
            body = history.project.bodies[0]
            self.reopened(history)
            if isinstance(command, Recast):  # what is known of an edge holds its line
                self.assertAlmostEqual(self.length(body), 16.0, delta=1e-3)
                self.check(history, 2e-2, 16.0, repr(command))
            else:  # a line that the reduction takes away cannot be on it
                self.assertLessEqual(self.length(body), 16.5)

    def test_a_cut_is_the_cut_of_a_library_with_the_columns_as_extra_coordinates(self) -> None:
        for how in ("cut", "add", "common"):
            history = self.begin("block", size=4.0, height=4.0, depth=4.0, edge=0.5)
            history.do(AddBody("icosphere", {"radius": 1.9, "edge": 0.4}, "Ball", (1.3, 2.0, 1.1)))
            one, other = history.project.bodies
            live, tool = one.corners.live_triangles(), other.corners.live_triangles()
            place = one.corners.slots["place"].copy()
            # every corner a vertex of its own, so that seams are cuts; joined again by the library's merging
            flat = np.concatenate((one.vertices["position"][live], place), axis=2).reshape(-1, 5)
            plain = np.concatenate((other.vertices["position"][tool], np.zeros((*tool.shape, 2))), axis=2).reshape(
                -1, 5
            )
            made = [self.solid(flat, live), self.solid(plain, tool)]
            expected = {"cut": made[0] - made[1], "add": made[0] + made[1], "common": made[0] ^ made[1]}[how]
            mesh = expected.to_mesh()
            values = np.asarray(mesh.vert_properties)[np.asarray(mesh.tri_verts)].astype(np.float64)
            size = np.linalg.norm(
                np.cross(values[:, 1, :3] - values[:, 0, :3], values[:, 2, :3] - values[:, 0, :3]), axis=1
            )
            history.do(Combine("Body", "Ball", how))
            body = history.project.bodies[0]
            at = body.vertices["position"].astype(np.float64)[body.corners.triangles]
            live_ = body.corners.triangles[:, 0] >= 0
            own = np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1)[live_]
            # means over the surface of what lies there, which no triangulation of it changes
            for column in range(2):
                wanted = (size * values[:, :, 3 + column].mean(axis=1)).sum()
                got = (own * body.corners.slots["place"][live_, :, column].mean(axis=1)).sum()
                self.assertAlmostEqual(got / wanted, 1.0, delta=2e-3, msg=how)
            # and, where it is the body's own, what the place says
            outside = np.abs(np.abs(at - (0, 2.0, 0)).max(axis=2) - 2.0).max(axis=1) < 1e-5
            outside &= live_ & (np.linalg.norm(at - (1.3, 2.0, 1.1), axis=2).min(axis=1) > 2.4)
            if how == "common":
                continue
            expected_here = at[outside] @ SLOPE + APART * (at[outside].mean(axis=1)[:, :1] > 0)[..., None]
            np.testing.assert_allclose(body.corners.slots["place"][outside], expected_here, atol=1e-3)
            self.assertGreater(int(outside.sum()), 100)
            check_project(history.project)
        history = self.begin("block", size=4.0, height=4.0, depth=4.0, edge=0.5)
        history.do(Bore("Body", ((-1.0, 2.0, -5.0), (-1.0, 2.0, 5.0)), radius=0.5, irregularity=0.0))
        self.assertAlmostEqual(self.length(history.project.bodies[0]), 16.0, delta=1e-3)

    def solid(self, values: np.ndarray, triangles: np.ndarray) -> manifold3d.Manifold:
        count = triangles.size
        first = np.unique(triangles.reshape(-1), return_index=True)[1]
        stands = first[np.unique(triangles.reshape(-1), return_inverse=True)[1].reshape(-1)]
        apart = np.flatnonzero(stands != np.arange(count))
        mesh = manifold3d.Mesh(
            np.ascontiguousarray(values, np.float32),
            np.arange(count, dtype=np.uint32).reshape(-1, 3),
            merge_from_vert=apart.astype(np.uint32),
            merge_to_vert=stands[apart].astype(np.uint32),
        )
        made = manifold3d.Manifold(mesh)
        assert made.status() == manifold3d.Error.NoError
        return made


if __name__ == "__main__":
    unittest.main()
