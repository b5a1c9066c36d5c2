"""Relief layers: what they add up to, what a brush changes, what survives."""

import pathlib
import tempfile
import unittest

import numpy as np

from hulmo.core.commands import (
    AddLayer,
    ChangeLayer,
    ClearLayer,
    DuplicateLayer,
    FlattenLayers,
    LayRelief,
    MergeLayer,
    MoveLayer,
    RelayRelief,
    RemoveLayer,
    Stroke,
    Subdivide,
)
from hulmo.core.errors import InvalidInput
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.journal import Journal, leftovers, recover
from hulmo.core.mesh.body import Body
from tests.bodies import crash, project_with, snapshot

DOWN = (0.0, 9.0, 0.0, 0.0, -1.0, 0.0)


def added_up(body: Body) -> np.ndarray:
    """Positions from the columns, by plain arithmetic."""
    total = body.vertices["rest"].copy()
    for layer in body.layers:
        if layer.shown and layer.strength:
            total += np.float32(layer.strength) * body.vertices[layer.column]
    return total


def on(
    layer: str, brush: str = "raise", samples: tuple[tuple[float, ...], ...] = (DOWN,), **settings: object
) -> Stroke:
    return Stroke("Body", brush, samples, {"strength": 100.0, **settings}, layer=layer)


class LayerTest(unittest.TestCase):
    def setUp(self) -> None:
        self.history = project_with("sheet", size=8.0, depth=8.0, edge=0.25)
        self.body = self.history.project.bodies[0]

    @property
    def position(self) -> np.ndarray:
        return self.body.vertices["position"]

    def test_a_brush_writes_its_layer_and_nothing_else(self) -> None:
        do = self.history.do
        do(LayRelief("Body", "noise", {"size": 1.0, "height": 0.2}, "Grain"))
        do(AddLayer("Body", "Hill"))
        rest, grain = self.body.vertices["rest"].copy(), self.body.vertices["relief_1"].copy()
        before = self.position.copy()
        do(on("Hill", radius=2.0, height=0.5, direction="up"))
        np.testing.assert_array_equal(self.body.vertices["rest"], rest)
        np.testing.assert_array_equal(self.body.vertices["relief_1"], grain)
        moved = (self.position - before)[:, 1]
        self.assertAlmostEqual(float(moved.max()), 0.5, delta=0.02)
        np.testing.assert_array_equal(self.position, added_up(self.body))
        do(ChangeLayer("Body", "Hill", strength=0.5))
        np.testing.assert_allclose((self.position - before)[:, 1], moved / 2, atol=1e-6)
        do(on("Hill", radius=2.0, height=0.5, direction="up"))  # what the hand asks for is what moves, at any strength
        self.assertAlmostEqual(float((self.position - before)[:, 1].max()), 0.75, delta=0.02)
        do(ChangeLayer("Body", "Hill", strength=-1.0))
        self.assertLess(float((self.position - before)[:, 1].min()), -0.9)
        do(ChangeLayer("Body", "Hill", shown=False))
        np.testing.assert_allclose(self.position, before, atol=1e-6)

    def test_smoothing_a_lower_layer_never_sees_what_lies_above(self) -> None:
        do = self.history.do
        do(on("", radius=2.0, height=1.0, direction="up"))
        plain = self.position.copy()
        do(LayRelief("Body", "noise", {"size": 0.8, "height": 0.3, "along": "up"}, "Grain"))
        grain = self.body.vertices["relief_1"].copy()
        samples = tuple((x, 9.0, z, 0.0, -1.0, 0.0) for x in np.arange(-3, 3.1, 1.0) for z in np.arange(-3, 3.1, 1.0))
        do(on("", "smooth", samples, radius=2.0))
        np.testing.assert_array_equal(self.body.vertices["relief_1"], grain)
        twin = project_with("sheet", size=8.0, depth=8.0, edge=0.25)
        twin.do(on("", radius=2.0, height=1.0, direction="up"))
        np.testing.assert_array_equal(twin.project.bodies[0].vertices["position"], plain)
        twin.do(on("", "smooth", samples, radius=2.0))
        smooth = self.body.vertices["rest"] - plain
        # dabs sit on the grain, so their centres differ by its height; the form underneath is smoothed nearly alike
        wanted = twin.project.bodies[0].vertices["position"] - plain
        self.assertGreater(float(np.abs(wanted).max()), 0.2)
        np.testing.assert_allclose(smooth, wanted, atol=0.06)

    def test_any_sequence_adds_up_and_undo_restores_every_byte(self) -> None:
        for seed in range(4):
            rng = np.random.default_rng(seed)
            history = project_with("icosphere", radius=4.0, edge=0.5)
            body = history.project.bodies[0]
            states = [(snapshot(body), body.layers)]
            for step in range(28):
                names = [layer.name for layer in body.layers]
                name = str(rng.choice(names)) if names else ""
                choices = [AddLayer("Body", f"L{step}"), LayRelief("Body", "jitter", {"seed": step})]
                if names:
                    choices += [
                        ChangeLayer("Body", name, strength=round(float(rng.uniform(-2, 2)), 2)),
                        ChangeLayer("Body", name, shown=bool(rng.integers(2))),
                        MoveLayer("Body", name, int(rng.integers(len(names)))),
                        DuplicateLayer("Body", name), MergeLayer("Body", name), ClearLayer("Body", name),
                        RemoveLayer("Body", name), FlattenLayers("Body"),
                    ]  # fmt: skip
                way = rng.standard_normal(3)
                ray = (*(9 * way / np.linalg.norm(way)), *(-way))
                brush = str(rng.choice(["raise", "smooth", "haul", "stamp", "slump", "even_out"]))
                samples = (ray, (*(np.array(ray[:3]) + 0.6), *ray[3:]))
                choices += [on(name, brush, samples, radius=2.5)] * 5
                try:
                    history.do(choices[int(rng.integers(len(choices)))])
                except InvalidInput:
                    continue  # hidden, or below it nothing shows: refused, and nothing was changed
                states.append((snapshot(body), body.layers))
                if body.layers:
                    np.testing.assert_array_equal(body.vertices["position"], added_up(body))
            self.assertGreater(len(states), 10)
            states = states[-len(history.commands) :]  # the body itself was the first command
            after = snapshot(body)
            for state, layers in reversed(states[:-1]):
                self.assertTrue(history.undo())
                self.assertEqual(body.layers, layers)
                self.assertEqual(snapshot(body), state)
            while len(history.labels[0]) > history.labels[1]:
                history.redo()
            self.assertEqual(snapshot(body), after)

    def test_merging_and_flattening_keep_the_shape(self) -> None:
        do = self.history.do
        for i, strength in enumerate((0.7, -1.5, 2.0)):
            do(LayRelief("Body", "noise", {"size": 1.0 + i, "height": 0.3, "seed": i}, f"N{i}"))
            do(ChangeLayer("Body", f"N{i}", strength=strength))
        shape = self.position.copy()
        do(MergeLayer("Body", "N2"))
        self.assertEqual([layer.name for layer in self.body.layers], ["N0", "N1"])
        np.testing.assert_allclose(self.position, shape, atol=1e-6)
        do(MergeLayer("Body", "N0"))
        np.testing.assert_allclose(self.position, shape, atol=1e-6)
        do(FlattenLayers("Body"))
        np.testing.assert_allclose(self.position, shape, atol=1e-6)
        self.assertNotIn("rest", self.body.vertices)
        for _ in range(3):
            self.history.undo()
        np.testing.assert_array_equal(self.position, shape)

    def test_layers_survive_subdivision_files_and_crashes(self) -> None:
        do = self.history.do
        do(LayRelief("Body", "noise", {"size": 1.0, "height": 0.3}, "Grain"))
        do(AddLayer("Body", "By hand"))
        do(on("By hand", radius=2.0))
        do(ChangeLayer("Body", "Grain", strength=0.4, locked=True))
        do(Subdivide("Body"))
        np.testing.assert_array_equal(self.position, added_up(self.body))
        with tempfile.TemporaryDirectory() as name:
            folder = pathlib.Path(name)
            save_project(self.history.project, folder / "a.hulmo")
            again = open_project(folder / "a.hulmo").bodies[0]
            self.assertEqual(again.layers, self.body.layers)
            self.assertEqual(snapshot(again), snapshot(self.body))
            journal = Journal(folder / "state")
            journal.restart(folder / "a.hulmo", folder / "a.hulmo")
            self.history.record(journal.note)
            do(ChangeLayer("Body", "Grain", strength=1.3, locked=False))
            do(on("By hand", "smooth", radius=2.0))
            crash(journal)
            came_back = recover(leftovers(folder / "state")[0]).history.project.bodies[0]
            journal.close()
            self.assertEqual(snapshot(came_back), snapshot(self.body))

    def test_what_cannot_be_is_refused_in_clear_words(self) -> None:
        do = self.history.do
        do(LayRelief("Body", "noise", {}, "Grain"))
        for change, words in (
            ({"locked": True}, "is locked; unlock it"),
            ({"locked": False, "shown": False}, "is hidden; show it"),
            ({"shown": True, "strength": 0.0}, "strength 0 %; turn it up"),
        ):
            do(ChangeLayer("Body", "Grain", **change))  # type: ignore[arg-type]
            before = snapshot(self.body)
            with self.assertRaisesRegex(InvalidInput, words):
                do(on("Grain"))
            if change.get("locked"):
                for command in (ClearLayer, RemoveLayer, MergeLayer, RelayRelief):
                    with self.assertRaisesRegex(InvalidInput, words):
                        do(command("Body", "Grain"))
            self.assertEqual(snapshot(self.body), before)
        for command, words in (
            (on("None such"), "no relief layer 'None such'"),
            (ChangeLayer("Body", "Grain", strength=2.5), "between -2 and 2"),
            (ChangeLayer("Body", "Grain", strength=float("nan")), "between -2 and 2"),
            (AddLayer("Body", "Grain"), "already has a relief layer"),
            (MoveLayer("Body", "Grain", 4), "no place 4"),
            (AddLayer("Body", " "), "needs a name"),
        ):
            with self.assertRaisesRegex(InvalidInput, words):
                do(command)

    def test_a_laid_layer_is_laid_again_until_a_hand_has_worked_on_it(self) -> None:
        do = self.history.do
        do(LayRelief("Body", "noise", {"size": 1.0, "height": 0.2, "along": "up"}, "Grain"))
        first = self.body.vertices["relief_1"].copy()
        do(RelayRelief("Body", "Grain", {"size": 1.0, "height": 0.4, "along": "up"}))
        np.testing.assert_allclose(self.body.vertices["relief_1"], 2 * first, atol=1e-6)
        do(on("Grain", radius=1.0))
        with self.assertRaisesRegex(InvalidInput, "made by hand"):
            do(RelayRelief("Body", "Grain"))
        self.history.undo()
        do(RelayRelief("Body", "Grain"))

    def test_a_preview_leaves_no_trace_until_it_is_kept(self) -> None:
        history = self.history
        before = snapshot(self.body)
        for height in (0.2, 0.5):
            command = LayRelief("Body", "noise", {"height": height})
            history.drop_preview()
            history.preview(command, history.prepare(command))
            self.assertNotEqual(snapshot(self.body), before)
        self.assertEqual(len(history.commands), 1)
        history.drop_preview()
        self.assertEqual(snapshot(self.body), before)
        history.preview(command, history.prepare(command))
        self.assertTrue(history.undo(), "undo takes the preview back, and nothing more")
        self.assertEqual((snapshot(self.body), len(history.commands)), (before, 1))
        history.preview(command, history.prepare(command))
        shown = snapshot(self.body)
        history.do(on("", radius=1.0))  # anything else takes it back first
        history.undo()
        self.assertEqual(snapshot(self.body), before)
        history.preview(command, history.prepare(command))
        self.assertTrue(history.keep_preview())
        self.assertEqual(snapshot(self.body), shown)
        history.undo()
        self.assertEqual(snapshot(self.body), before)


class SpillTest(unittest.TestCase):
    def test_a_full_memory_goes_to_disk_and_undo_stays_exact(self) -> None:
        history = project_with("sheet", size=10.0, depth=10.0, edge=0.1)
        small = History(history.project, memory_cap=400_000)
        body = history.project.bodies[0]
        states = []
        for i in range(6):
            states.append(snapshot(body))
            small.do(LayRelief("Body", "jitter", {"seed": i}) if i % 2 else on("", radius=4.0, height=0.1 * (i + 1)))
        small.do(Subdivide("Body"))
        self.assertLess(small.nbytes, 3_000_000)
        self.assertEqual(len(small.commands), 7)
        small.undo()
        for state in reversed(states):
            self.assertTrue(small.undo())
            self.assertEqual(snapshot(body), state)
        for _ in range(7):
            self.assertTrue(small.redo())
        self.assertEqual(body.corners.live_count, 8 * 100 * 100)


if __name__ == "__main__":
    unittest.main()
