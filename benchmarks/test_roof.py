"""A roof of 60 modules in shade: its year, an edit, the moment's shadow, its arrangements; each as a ratio
to a baseline of the same run."""

import itertools

import numpy as np
import pytest

from lodestaff.electrical.arrange import Alike, Taker, arrange, compositions
from lodestaff.energy.shade import beam_share, normal_of
from lodestaff.energy.sun import sun_over_year
from lodestaff.job import Change, edit
from lodestaff.reckoning import Moment, Reckoner
from lodestaff.reckoning.results import compute
from lodestaff.reckoning.selectors import place
from lodestaff.reckoning.sun_view import shadows, sun_view
from lodestaff.roof.solids import standings


@pytest.fixture(scope="module")
def roof(job):
    """The demo with 40 and 20 modules on two faces, a chimney, a dormer and a tree."""
    sheet = job.sheets.modules[job.faces[0].module]
    w, h = sheet.width_m + 0.02, sheet.length_m + 0.02
    wide = [{"name": t.name, "v_min": 120.0, "v_max": 900.0, "v_start": 150.0, "imp_max_a": 60.0,
    "isc_max_a": 80.0,
             "inputs": 4} for t in job.sheets.hybrids["hybrid-6"].trackers]  # fmt: skip

    def modules(count, string):
        return [
            {
                "id": f"m{n + 1}",
                "x_m": round(0.4 + n % 20 * w, 3),
                "y_m": round(0.4 + n // 20 * h, 3),
                "string": string,
            }
            for n in range(count)
        ]

    changes = [
        Change("sheets/hybrids/hybrid-6/trackers", wide),
        Change("sheets/hybrids/hybrid-6/max_dc_v", 1000.0),
        Change("surroundings", [{"id": "tree", "name": "Tree", "shape": "round", "east_m": 12.0, "north_m":
        -9.0,
                                 "width_m": 7.0, "height_m": 12.0, "base_m": 2.0}]),
    ]  # fmt: skip
    for number, (face, count) in enumerate((("south-east", 40), ("south-west", 20)), start=1):
        top = {
            "id": "obstacle-1",
            "name": "Chimney",
            "x_m": 10.0,
            "y_m": 5.0,
            "w_m": 0.9,
            "h_m": 0.9,
            "height_m": 1.3,
        }
        changes += [
            Change(f"faces/{face}/modules", []),
            Change(f"faces/{face}/width_m", 24.5),
            Change(f"faces/{face}/height_m", 6.2),
            Change(f"faces/{face}/obstacles", [top]),
            Change(f"faces/{face}/origin", {"east_m": 40.0 * (number - 1), "north_m": 0.0, "eaves_m": 4.0}),
            Change(f"faces/{face}/modules", modules(count, f"string-{number}")),
        ]
    strings = [string.id for string in job.strings]
    changes[-1] = Change("faces/south-west/modules", modules(20, strings[1]))
    changes[8] = Change("faces/south-east/modules", modules(40, strings[0]))
    return edit(job, *changes)


def test_the_year_of_sixty_modules_in_shade(benchmark, roof, noted, seconds):
    """Everything the window shows, nothing kept; baseline: the same rays by numpy, for one module, times
    sixty."""
    compute(Reckoner(), roof, Moment(), False)  # what is compiled once
    benchmark.pedantic(lambda: compute(Reckoner(), roof, Moment(), False), rounds=3)
    sun, module = sun_over_year(place(roof)), standings(roof, roof.faces[0])["m1"]

    def by_numpy():
        """24 points of the module against each solid, all steps at once."""
        toward = sun.directions
        lit = np.ones((24, len(toward)))
        for index in range(24):
            point = np.array(module.corner) + (index + 0.5) / 24 * np.array(module.across)
            for solid in module.around:
                sides = np.array(solid.sides)
                along = toward @ sides[:, :3].T
                with np.errstate(all="ignore"):
                    meets = (sides[:, 3] - sides[:, :3] @ point) / along
                enter = np.where(along < 0, meets, 1e-3).max(axis=1)
                leave = np.where(along > 0, meets, np.inf).min(axis=1)
                lit[index] *= ~((enter < leave) & (toward @ normal_of(module) > 0))
        return lit

    noted(benchmark, "rays by numpy", 60 * seconds(by_numpy, 1))


def test_rays_of_one_module(benchmark, roof, noted, seconds):
    """24 points, 35,040 steps; baseline: the same module without the spheres that tell what can't be met
    (its solids moved to it, so that every ray is traced)."""
    sun, module = sun_over_year(place(roof)), standings(roof, roof.faces[0])["m1"]
    benchmark(beam_share, module, sun)
    from dataclasses import replace

    near = tuple(replace(solid, radius=1e6) for solid in module.around)
    noted(benchmark, "every ray traced", seconds(lambda: beam_share(replace(module, around=near), sun), 3))


def test_an_edit_of_a_shaded_roof(benchmark, roof, noted, seconds):
    """A module changes its string; baseline: all anew."""
    reckoner, numbers = Reckoner(), itertools.count()
    compute(reckoner, roof, Moment(), False)
    other = roof.strings[1].id

    def change():
        path = f"faces/south-east/modules/m{next(numbers) % 39 + 1}/string"
        return compute(
            reckoner, edit(roof, Change(path, other)), Moment(), False, stations=frozenset({"array"})
        )

    benchmark.pedantic(change, rounds=12, warmup_rounds=2)
    noted(benchmark, "computing all anew", seconds(lambda: compute(Reckoner(), roof, Moment(), False), 1))


def test_the_moments_shadow(benchmark, roof, noted, seconds):
    """Shadows on both faces and the sky before a module; baseline: a year of one module's rays."""
    hours = itertools.cycle(range(7, 18))

    def turn():
        moment = Moment(month=4, hour=float(next(hours)))
        return [shadows(roof, face, moment) for face in roof.faces], sun_view(
            roof, roof.faces[0], "m1", moment
        )

    benchmark(turn)
    sun, module = sun_over_year(place(roof)), standings(roof, roof.faces[0])["m1"]
    noted(benchmark, "a year of one module's rays", seconds(lambda: beam_share(module, sun), 3))


def test_arrangements_of_sixty_modules(benchmark, noted, seconds):
    """60 modules on four faces, six trackers of two inputs; baseline: as many ways taken blindly, one after
    the other."""
    kinds = tuple(Alike(15, 400.0 - 3 * n, "module", 13.0) for n in range(4))
    takers = tuple(
        Taker("unit", str(n), ((4, 12),) * 4, parallel=2, isc_most_a=1000.0, like="x" if n % 2 else "")
        for n in range(6)
    )

    def year(counts):
        mixed = sum(n > 0 for n in counts) > 1
        return sum(n * kind.kwh for n, kind in zip(counts, kinds, strict=True)) * (0.9 if mixed else 1.0)

    benchmark.pedantic(lambda: arrange(kinds, takers, year), rounds=3)
    options = [*compositions(kinds, takers[0])]

    def blindly():
        best = 0.0
        for chosen in itertools.islice(itertools.product(options, repeat=6), 100_000):
            if all(sum(column) <= 15 for column in zip(*chosen, strict=True)):
                best = max(best, sum(map(year, chosen)))
        return best

    noted(benchmark, "as many taken blindly", seconds(blindly, 1))
