"""Sun, sky and fog against published values and closed forms."""

import math
import unittest

import numpy as np

from hulmo.core.commands import SetLight
from hulmo.core.dress import sky
from hulmo.core.dress.light import Light
from hulmo.core.dress.sun_path import rise_and_set, sun_at
from hulmo.core.errors import InvalidInput
from hulmo.core.history import History
from hulmo.core.project import Project


class SunTest(unittest.TestCase):
    def test_noon_altitudes_of_the_year(self) -> None:
        """On the meridian the sun stands 90 - latitude + declination high. Declinations of the almanac (value from memory):
        solstices 23.44 degrees, equinoxes 0; the sun crosses it to within the equation of time."""
        for latitude, day, declination in (
            (57.0, "2026-06-21", 23.44), (57.0, "2026-12-21", -23.44), (0.0, "2026-03-20", 0.0),
            (-33.9, "2026-12-21", -23.44),
        ):  # fmt: skip
            highest = max(sun_at(latitude, 0.0, day, 11.5 + i / 60, 0.0)[1] for i in range(61))
            self.assertAlmostEqual(highest, 90 - abs(latitude - declination), delta=0.15)

    def test_a_worked_example(self) -> None:
        """Reda and Andreas, "Solar position algorithm" (NREL/TP-560-34302, 2008), appendix: 17 October 2003, 12:30:30 at
        UTC-7, 39.742476 N 105.1786 W: zenith 50.11162 (with refraction), azimuth 194.34024 (values from memory)."""
        bearing, altitude = sun_at(39.742476, -105.1786, "2003-10-17", 12.5 + 30 / 3600, -7.0)
        self.assertAlmostEqual(bearing, 194.34, delta=0.1)
        self.assertAlmostEqual(altitude, 90 - 50.11, delta=0.1)

    def test_equinox_days_are_twelve_hours(self) -> None:
        for latitude in (-50.0, 0.0, 40.0):
            rise, fall = rise_and_set(latitude, 15.0, "2026-03-20", 1.0)
            self.assertAlmostEqual(fall - rise, 12.0, delta=0.12)
        self.assertIsNone(rise_and_set(80.0, 0.0, "2026-06-21", 0.0))

    def test_places_and_days_that_are_none(self) -> None:
        history = History(Project())
        for command, words in (
            (SetLight(latitude=91.0, longitude=0.0), "latitude is 91"),
            (SetLight(latitude=1.0), "needs a latitude and a longitude"),
            (SetLight(latitude=1.0, longitude=1.0, day="2026-02-30"), "day"),
            (SetLight(latitude=1.0, longitude=1.0, day="yesterday"), "day"),
            (SetLight(latitude=1.0, longitude=1.0, hour=25.0), "hour"),
            (SetLight(fog_colour="grey"), "colour"),
            (SetLight(sight=-1.0), "sight"),
            (SetLight(altitude=math.nan), "altitude"),
        ):
            with self.subTest(command=command), self.assertRaisesRegex(InvalidInput, words):
                history.do(command)
        history.do(SetLight(latitude=57.0, longitude=-7.0, day="2026-06-21", hour=23.9))
        self.assertLess(history.project.light.altitude, 0)
        self.assertEqual(history.project.light.sun_light(), (0.0, 0.0, 0.0))


class SkyTest(unittest.TestCase):
    def test_phase_functions_scatter_all_there_is(self) -> None:
        """Rayleigh's and the Cornette-Shanks phase function: the whole sphere adds up to 1; ahead and back alike for air."""
        cosine = np.linspace(-1, 1, 200_001)
        for phase in (sky.rayleigh_phase(cosine), sky.dust_phase(cosine)):
            self.assertAlmostEqual(float(np.trapezoid(phase, cosine)) * 2 * math.pi, 1.0, places=4)
        self.assertAlmostEqual(float(sky.rayleigh_phase(np.array(1.0)) / sky.rayleigh_phase(np.array(0.0))), 2.0)

    def test_the_brightest_place_is_low_beside_the_sun_and_blue_lies_away_from_it(self) -> None:
        image, up = sky.sky_image(34.0, 1.0, 1.0), sky.elevations()
        above = up > 0
        row, column = np.unravel_index(image[above].sum(axis=2).argmax(), image[above].shape[:2])
        self.assertLess(up[above][row], 34.0)
        self.assertLess(column, sky.COLUMNS / 4)
        zenith = image[-1].mean(axis=0)
        self.assertGreater(zenith[2], 1.5 * zenith[0])
        evening = sky.sky_image(1.0, 1.0, 1.0)[np.argmin(np.abs(up - 2.0)), 0]
        self.assertGreater(evening[0], 1.5 * evening[2])  # red where the sun goes down
        self.assertEqual(float(np.abs(sky.sky_image(34.0, 0.0, 0.0)[above]).max()), 0.0)  # no air, no sky

    def test_light_through_the_air_falls_as_bouguer_says(self) -> None:
        """Straight up, optical depth is beta times the scale height: exp(-8000 beta) for air alone."""
        found = sky.sun_through(90.0, 1.0, 0.0)
        np.testing.assert_allclose(found, np.exp(-sky.RAYLEIGH * sky.RAYLEIGH_HEIGHT), rtol=0.02)

    def test_irradiance_of_a_constant_and_of_a_cosine_sky(self) -> None:
        """E / pi is 1 for a sky of 1 everywhere, and 2 / 3 on level ground for one of sin(elevation) (closed form)."""
        one = np.ones((sky.ROWS, sky.COLUMNS, 3), np.float32)
        for way in ((0.0, 1.0, 0.0), (0.6, 0.8, 0.0), (0.0, 0.0, 1.0)):
            np.testing.assert_allclose(sky.irradiance(one, np.array(way)), 1.0, atol=2e-3)
        cosine = one * np.maximum(np.sin(np.radians(sky.elevations())), 0)[:, None, None].astype(np.float32)
        np.testing.assert_allclose(sky.irradiance(cosine, np.array([0.0, 1.0, 0.0])), 2 / 3, atol=2e-3)

    def test_a_typed_strength_is_that_of_the_reference(self) -> None:
        light = Light()
        np.testing.assert_allclose(light.sun_light(), (3.0, 0.94 * 3.0, 0.84 * 3.0))
        np.testing.assert_allclose(light.sky_light(), 1.0)
        low = Light(altitude=5.0).sun_light()
        self.assertLess(low[2] / low[0], 0.6)  # a low sun is red

    def test_how_far_one_sees(self) -> None:
        """Koschmieder 1924: at the distance of sight 2 % of a contrast is left."""
        self.assertAlmostEqual(math.exp(-Light(sight=250.0).extinction() * 250.0), 0.02, places=4)
        self.assertEqual(Light().extinction(), 0.0)


if __name__ == "__main__":
    unittest.main()
