"""Random sequences: tables stay whole whatever is allocated, freed, connected, sculpted, painted and undone."""

import unittest

import numpy as np

from hulmo.core.commands import AddBody, AddGround, Command, Fill, RemoveBody, RemoveGround, ResetCoat, Subdivide
from hulmo.core.history import History
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.connectivity import build_opposites
from hulmo.core.mesh.vertex_table import VertexTable
from tests.bodies import form_body, project_with, snapshot, stroke


def check_body(test: unittest.TestCase, body: Body, grounds: int) -> None:
    """What must hold of every body after every edit."""
    corners, vertices = body.corners, body.vertices
    vertex, opposite = corners.vertex, corners.opposite
    inner = np.flatnonzero(opposite >= 0)
    np.testing.assert_array_equal(opposite[opposite[inner]], inner)
    following = inner - inner % 3 + (inner + 1) % 3
    facing = opposite[inner]
    before = facing - facing % 3 + (facing + 2) % 3
    np.testing.assert_array_equal(vertex[following], vertex[before])
    at = np.arange(vertices.count)
    np.testing.assert_array_equal(vertex[corners.first_corner], at)
    for name in vertices.names:
        test.assertTrue(np.isfinite(vertices[name]).all(), f"{name} holds a number that is not finite")
    normal = vertices["normal"].astype(float)
    np.testing.assert_allclose(np.linalg.norm(normal, axis=1), 1, atol=1e-5)
    weight = vertices["weight"]
    test.assertEqual(weight.shape, (vertices.count, grounds))
    np.testing.assert_allclose(weight.sum(axis=1), 1, atol=2e-6)
    test.assertGreaterEqual(float(weight.min()), 0.0)


def random_command(rng: np.random.Generator, history: History) -> Command | None:
    """Something a hand could do next."""
    project = history.project
    names = [ground.name for ground in project.grounds]
    body = project.bodies[rng.integers(len(project.bodies))]
    toward = rng.normal(size=3)
    ray = (*(-40 * toward / np.linalg.norm(toward)).tolist(), *toward.tolist(), float(rng.uniform(0, 1)))
    brush = ("raise", "smooth", "lay", "lift")[rng.integers(4)]
    build_up = ("one_coat", "stacking", "until_reset")[rng.integers(3)]
    samples = [ray, tuple(value + float(rng.normal(0, 0.5)) if i < 3 else value for i, value in enumerate(ray))]
    settings = {
        "radius": float(rng.uniform(0.3, 8)),
        "strength": float(rng.uniform(0, 100)),
        "falloff": ("smooth", "dome", "sharp", "linear", "flat")[rng.integers(5)],
        "core": float(rng.uniform(0, 95)),
        "build_up": build_up,
    }
    painting = brush in ("lay", "lift")
    made = stroke(
        brush, *samples, ground=names[rng.integers(len(names))] if painting else "",
        invert=brush != "smooth" and bool(rng.integers(2)), **settings,
    )  # fmt: skip
    choice = rng.integers(20)
    if choice == 0 and len(names) < 8:
        return AddGround(("frost", "scree", "mud_bank")[rng.integers(3)])
    if choice == 1 and len(names) > 1:
        return RemoveGround(names[rng.integers(len(names))])
    if choice == 2:
        return Fill(body.name, names[rng.integers(len(names))])
    if choice == 3 and body.corners.count < 6000:
        return Subdivide(body.name)
    if choice == 4 and len(project.bodies) < 3:
        return AddBody(("disc", "block")[rng.integers(2)], {"edge": 1.5})
    if choice == 5 and len(project.bodies) > 1 and body.name != "Body":
        return RemoveBody(body.name)
    if choice == 6:
        return ResetCoat(body.name)
    return made


class RandomWorkTest(unittest.TestCase):
    def test_whatever_is_done_can_be_undone_to_the_byte(self) -> None:
        for seed in range(3):
            rng = np.random.default_rng(seed)
            history = project_with("icosphere", radius=6.0, edge=0.9)
            states = [self.state(history)]
            for _ in range(50):
                command = random_command(rng, history)
                assert command is not None
                history.do(command)
                for body in history.project.bodies:
                    check_body(self, body, len(history.project.grounds))
                states.append(self.state(history))
                if rng.random() < 0.2:
                    history.undo()
                    states.pop()
                    self.assertEqual(self.state(history), states[-1], command)
            while len(states) > 1:
                history.undo()
                states.pop()
                self.assertEqual(self.state(history), states[-1])

    def state(self, history: History) -> object:
        project = history.project
        bodies = []
        for body in project.bodies:
            columns = snapshot(body)
            if not any(columns.get("coat", b"")):
                columns.pop("coat", None)  # a coat of nothing is no coat
            bodies.append((body.ident, columns, body.corners.vertex.tobytes(), body.coat_owner))
        return project.grounds, bodies

    def test_vertex_table_hands_out_each_row_once(self) -> None:
        rng = np.random.default_rng(2)
        table = VertexTable()
        table.add_column("position", 3)
        held: dict[int, float] = {}
        for _ in range(300):
            if rng.random() < 0.6 or not held:
                for row in table.allocate(int(rng.integers(1, 30))).tolist():
                    self.assertNotIn(row, held)
                    held[row] = float(rng.random())
                    table["position"][row] = held[row]
            else:
                gone = rng.choice(list(held), min(len(held), int(rng.integers(1, 30))), replace=False)
                table.free.put(gone.astype(np.int32))
                for row in gone.tolist():
                    del held[row]
            self.assertEqual(table.live_count, len(held))
        for row, value in held.items():
            np.testing.assert_allclose(table["position"][row], value, rtol=1e-6)

    def test_pairing_is_linear_and_does_not_mind_the_order(self) -> None:
        rng = np.random.default_rng(5)
        body = form_body("block", size=3.0, height=3.0, depth=3.0, edge=0.5)
        order = rng.permutation(body.corners.count)
        shuffled = body.corners.triangles[order]
        opposite, first = build_opposites(np.ascontiguousarray(shuffled).reshape(-1), body.vertices.count)
        self.assertTrue((opposite >= 0).all())
        back = np.empty_like(order)
        back[order] = np.arange(order.size)
        expected = body.corners.opposite.reshape(-1, 3)[order].reshape(-1)
        np.testing.assert_array_equal(opposite, 3 * back[expected // 3] + expected % 3)
        self.assertTrue((first >= 0).all())


if __name__ == "__main__":
    unittest.main()
