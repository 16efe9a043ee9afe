"""Lengths on the ground against PROJ's geodesics (package pyproj)."""

from __future__ import annotations

import random
import unittest

from pyproj import Geod

from jaded_ledger.core.outlines import ground_at, sides

FOOT = 0.3048


class Lengths(unittest.TestCase):
    def test_sides_against_geodesics(self) -> None:
        """A thousand lines of up to a mile, from Hawaii to Alaska: to four parts in ten thousand."""
        geod, rng = Geod(ellps="WGS84"), random.Random(1)
        for _ in range(1000):
            origin = (rng.uniform(-170, -60), rng.uniform(18, 70))
            ground = ground_at(origin)
            end = (origin[0] + rng.uniform(-0.015, 0.015), origin[1] + rng.uniform(-0.012, 0.012))
            east, north = ground.point(end)
            _, _, meters = geod.inv(*origin, *end)
            self.assertAlmostEqual((east**2 + north**2) ** 0.5 / (meters / FOOT), 1, delta=4e-4)

    def test_a_lots_sides(self) -> None:
        """A lot laid out by geodesics, 60 ft by 120.5 ft and turned by 20 degrees, measured to a tenth of a foot."""
        geod = Geod(ellps="WGS84")
        ring = [(-86.9, 43.62)]
        for azimuth, feet in ((110, 60), (20, 120.5), (290, 60)):
            east, north, _ = geod.fwd(*ring[-1], azimuth, feet * FOOT)
            ring.append((east, north))
        ring.append(ring[0])
        ground = ground_at(ring[0])
        self.assertEqual([round(side.length, 1) for side in sides([ground.point(at) for at in ring])], [60.0, 120.5, 60.0, 120.5])

    def test_bends_are_joined_and_corners_are_not(self) -> None:
        bent = [(0, 0), (50, 1), (100, 0), (100, 80), (0, 80), (0, 0)]
        self.assertEqual(len(sides(bent)), 4)
        self.assertEqual(len(sides([(0, 0), (50, 20), (100, 0), (100, 80), (0, 80), (0, 0)])), 5)
        self.assertEqual(sides([(0, 0), (1, 1), (0, 0)]), ())
