"""The plane on which an outline is measured, against PROJ's geodesics (pyproj), and the corners of a ring."""

from __future__ import annotations

import unittest

import pyproj

from jaded_ledger.core.outlines import ground_at, sides

_FEET = 0.3048


class OnTheGround(unittest.TestCase):
    def test_feet_as_the_geodesics_have_them(self) -> None:
        geod = pyproj.Geod(ellps="WGS84")
        for latitude in (25.0, 41.5, 48.0):
            ground = ground_at((-80.0, latitude))
            self.assertEqual(ground.point((-80.0, latitude)), (0, 0))
            for east, north in ((0.004, 0), (0, 0.004), (-0.003, 0.002)):
                x, y = ground.point((-80.0 + east, latitude + north))
                feet = geod.inv(-80.0, latitude, -80.0 + east, latitude + north)[2] / _FEET
                self.assertAlmostEqual((x * x + y * y) ** 0.5 / feet, 1, places=4)
                self.assertTrue(x * east >= 0 and y * north >= 0)


class Sides(unittest.TestCase):
    def test_two_points_have_no_sides_and_three_have(self) -> None:
        self.assertEqual(sides([]), ())
        self.assertEqual(sides([(0, 0), (3, 0), (0, 0)]), ())
        self.assertEqual([side.length for side in sides([(0, 0), (3, 0), (0, 4), (0, 0)])], [3, 5, 4])

    def test_a_slight_bend_is_no_corner(self) -> None:
        bent = sides([(0, 0), (50, 0.2), (100, 0), (100, 80), (0, 80), (0, 0)])
        self.assertEqual([round(side.length) for side in bent], [100, 80, 100, 80])
        sharp = sides([(0, 0), (50, 20), (100, 0), (100, 80), (0, 80), (0, 0)])
        self.assertEqual(len(sharp), 5)
