"""Kinds of system A to S as starting points: choices already made, each free to be changed."""

from dataclasses import dataclass

from lodestaff.templates.wanted import Roof, Wanted


@dataclass(frozen=True)
class StartingPoint:
    """A kind: its letter, what it is in words, and the choices."""

    letter: str
    words: str
    wanted: Wanted


def _points() -> tuple[StartingPoint, ...]:
    two = (
        Roof(name="East", azimuth_deg=95, strings=((0, "A", 8),)),
        Roof(name="West", azimuth_deg=275, strings=((0, "B", 8),)),
    )
    return (
        StartingPoint(
            "A",
            "Hybrid without backup, two opposite faces, generation meter, car charger",
            Wanted(
                title="Wendle Row 14",
                place="Wendle Row, Nether Coomb",
                rating_a=60,
                backup="none",
                charger=True,
                metered=True,
                unit_sheet="hybrid-6",
                battery_sheet="battery-41",
                module_sheet="module-445",
                battery_modules=(2,),
                roofs=two,
            ),
        ),
        StartingPoint(
            "B",
            "Hybrid with an emergency outlet",
            Wanted(
                title="Sallow Bank Cottage",
                place="Sallow Bank, Hexcombe",
                rating_a=80,
                earthing="TN-S",
                backup="outlet",
                unit_sheet="hybrid-5",
                battery_sheet="battery-52",
                battery_modules=(2,),
                roofs=(Roof(name="South", azimuth_deg=184, strings=((0, "A", 6), (0, "B", 5))),),
            ),
        ),
        StartingPoint(
            "C",
            "Hybrid with automatic changeover, whole building",
            Wanted(
                title="Old Tannery House",
                place="Tannery Lane, Orle",
                rating_a=80,
                backup="whole building",
                bypass="by hand",
                charger=True,
                unit_sheet="hybrid-8",
                battery_sheet="battery-38",
                battery_modules=(4,),
                roofs=(
                    Roof(name="South-east", azimuth_deg=140, strings=((0, "A", 8), (0, "B", 7))),
                    Roof(name="South-west", azimuth_deg=230, strings=((0, "C", 7),)),
                ),
            ),
        ),
        StartingPoint(
            "D",
            "Hybrid with a backup panel, and an interlock that feeds the main panel",
            Wanted(
                title="Juniper Draw Ranch",
                place="Juniper Draw",
                pack="na",
                system="120/240 V",
                rating_a=150,
                backup="panel",
                interlock=True,
                second_building=True,
                circuits="station",
                unit_sheet="hybrid-9-split",
                battery_modules=(6,),
                roofs=(Roof(name="South", azimuth_deg=180, strings=((0, "A", 9), (0, "B", 9))),),
            ),
        ),
        StartingPoint(
            "E",
            "Hybrid with a double-throw bypass, one feeder intercepted, rapid shutdown",
            Wanted(
                title="Cinder Flat House",
                place="Cinder Flat",
                pack="na",
                system="120/240 V",
                rating_a=125,
                backup="whole building",
                bypass="by hand",
                shutdown=True,
                unit_sheet="hybrid-12-split",
                battery_modules=(6,),
                roofs=(
                    Roof(name="East", azimuth_deg=100, strings=((0, "A", 8),)),
                    Roof(name="South", azimuth_deg=190, strings=((0, "B", 9), (0, "C", 9))),
                ),
            ),
        ),
        StartingPoint(
            "F",
            "String inverter, AC-coupled battery and gateway, whole building",
            Wanted(
                title="Brockle Vicarage",
                place="Brockle",
                rating_a=100,
                family="string inverter and battery unit",
                backup="whole building",
                charger=True,
                unit_sheet="battery-unit-8",
                battery_sheet="battery-98",
                battery_modules=(1,),
                roofs=(
                    Roof(name="South", azimuth_deg=176, strings=((0, "A", 9),)),
                    Roof(name="East", azimuth_deg=86, strings=((0, "B", 7), (0, "B", 7))),
                ),
            ),
        ),
        StartingPoint(
            "G",
            "Microinverters and AC-coupled battery, no backup",
            Wanted(
                title="Pinfold Terrace 3",
                place="Pinfold Terrace, Ainsby",
                rating_a=60,
                backup="none",
                family="microinverters and battery unit",
                unit_sheet="battery-unit-3",
                battery_sheet="battery-48",
                battery_modules=(1,),
                roofs=(
                    Roof(name="East", azimuth_deg=92, strings=((0, "branch", 6),)),
                    Roof(name="West", azimuth_deg=272, strings=((1, "branch", 7),)),
                ),
            ),
        ),
        StartingPoint(
            "H",
            "Microinverters on several branches, AC-coupled batteries, gateway",
            Wanted(
                title="Gannet Point Lodge",
                place="Gannet Point",
                pack="anz",
                earthing="MEN",
                rating_a=100,
                family="microinverters and battery unit",
                backup="whole building",
                units=2,
                second_building=True,
                battery_sheet="battery-98",
                battery_modules=(1,),
                roofs=(
                    Roof(name="North", azimuth_deg=4, tilt_deg=22, strings=((0, "branch", 11),)),
                    Roof(name="Shed north", azimuth_deg=15, tilt_deg=15, strings=((1, "branch", 11),)),
                ),
            ),
        ),
        StartingPoint(
            "I",
            "An existing array gets an AC-coupled battery, a gateway and more modules",
            Wanted(
                title="Tern Quay Boatshed",
                place="Tern Quay",
                pack="anz",
                earthing="MEN",
                system="three phases",
                rating_a=63,
                circuits="workshop",
                family="existing array and battery unit",
                backup="panel",
                unit_sheet="battery-unit-8",
                battery_sheet="battery-98",
                battery_modules=(1,),
                roofs=(
                    Roof(name="Tearoom", azimuth_deg=350, tilt_deg=20, strings=((0, "A", 6),)),
                    Roof(name="Boatshed", azimuth_deg=10, tilt_deg=12, strings=((1, "A", 9),)),
                ),
            ),
        ),
        StartingPoint(
            "J",
            "Two phases, one hybrid on each with a board of its own",
            Wanted(
                title="Harrow Mill Flats",
                place="Harrow Mill",
                system="two of three phases",
                rating_a=63,
                units=2,
                arrangement="one on each phase",
                backup="panel",
                unit_sheet="hybrid-5",
                battery_modules=(2,),
                roofs=(Roof(name="South", azimuth_deg=178, strings=((0, "A", 8), (1, "A", 8))),),
            ),
        ),
        StartingPoint(
            "K",
            "Two hybrids side by side, two backup and two grid panels, generator",
            Wanted(
                title="Ocotillo Wash Centre",
                place="Ocotillo Wash",
                pack="na",
                system="120/240 V",
                rating_a=200,
                units=2,
                arrangement="side by side",
                backup="panel",
                bypass="by hand",
                generator=True,
                surplus=True,
                own_sun=True,
                circuits="station",
                unit_sheet="hybrid-9-split",
                battery_modules=(6, 4),
                roofs=(
                    Roof(name="South", azimuth_deg=182, strings=((0, "A", 9), (1, "A", 9))),
                    Roof(name="West", azimuth_deg=265, strings=((0, "B", 8), (1, "B", 8))),
                ),
            ),
        ),
        StartingPoint(
            "L",
            "Two paralleled hybrids, generator with two-wire start, bypass",
            Wanted(
                title="Brindle Mesa Field Station",
                place="Brindle Mesa",
                pack="na",
                system="120/240 V",
                grid=False,
                units=2,
                backup="whole building",
                bypass="by hand",
                generator=True,
                circuits="station",
                unit_sheet="hybrid-9-split",
                battery_modules=(6,),
                roofs=(
                    Roof(
                        name="Rack south",
                        azimuth_deg=180,
                        tilt_deg=38,
                        strings=((0, "A", 9), (0, "B", 9), (1, "A", 9), (1, "B", 9)),
                    ),
                ),
            ),
        ),
        StartingPoint(
            "M",
            "Two DC-coupled inverters with optimisers, batteries shared out unevenly, one gateway",
            Wanted(
                title="Ludd Hall Annexe",
                place="Ludd Hall",
                rating_a=100,
                units=2,
                backup="whole building",
                optimisers="all",
                unit_sheet="hybrid-5-open",
                battery_modules=(4, 2),
                circuits="workshop",
                roofs=(
                    Roof(name="South", azimuth_deg=170, strings=((0, "A", 9), (0, "B", 9))),
                    Roof(name="West", azimuth_deg=260, strings=((1, "A", 10),)),
                ),
            ),
        ),
        StartingPoint(
            "N",
            "Battery units with their own solar inputs, gateway, backup panel",
            Wanted(
                title="Sotol Ridge House",
                place="Sotol Ridge",
                pack="na",
                system="120/240 V",
                rating_a=320,
                units=3,
                family="battery units with solar inputs",
                backup="panel",
                charger=True,
                battery_sheet="battery-98",
                battery_modules=(1,),
                roofs=(
                    Roof(
                        name="South",
                        azimuth_deg=185,
                        strings=tuple((unit, tracker, 8) for unit in range(3) for tracker in ("A", "B")),
                    ),
                ),
            ),
        ),
        StartingPoint(
            "O",
            "Array and battery in an outbuilding, sub-main to the house",
            Wanted(
                title="Far Byre",
                place="Far Byre, Upper Thwaite",
                rating_a=80,
                outbuilding=True,
                backup="panel",
                unit_sheet="hybrid-6",
                battery_modules=(3,),
                roofs=(
                    Roof(
                        name="Byre south", azimuth_deg=188, tilt_deg=25, strings=((0, "A", 10), (0, "B", 10))
                    ),
                ),
            ),
        ),
        StartingPoint(
            "P",
            "Workshop hybrid with an inverter-first changeover beside existing generation",
            Wanted(
                title="Cobbler's Yard Workshop",
                place="Cobbler's Yard",
                rating_a=63,
                earthing="TN-C",
                backup="whole building",
                bypass="automatic",
                existing="string inverter",
                chosen_loads_ct=True,
                circuits="workshop",
                unit_sheet="hybrid-6",
                battery_modules=(3,),
                roofs=(
                    Roof(name="South", azimuth_deg=181, strings=((0, "A", 9), (0, "B", 9))),
                    Roof(name="Old roof", azimuth_deg=150, strings=((1, "A", 6),)),
                ),
            ),
        ),
        StartingPoint(
            "Q",
            "Large array on a small hybrid, parallel strings on opposite slopes",
            Wanted(
                title="Larch Fold Barn",
                place="Larch Fold",
                rating_a=80,
                backup="panel",
                optimisers="some",
                unit_sheet="hybrid-5-array",
                battery_modules=(3,),
                roofs=(
                    Roof(name="East", azimuth_deg=90, strings=((0, "A", 8),)),
                    Roof(name="West", azimuth_deg=270, strings=((0, "A", 8),)),
                ),
            ),
        ),
        StartingPoint(
            "R",
            "No grid: hybrid, generator, surplus loads",
            Wanted(
                title="Skerry Light Cottage",
                place="Skerry Light",
                grid=False,
                earthing="TT",
                backup="whole building",
                bypass="by hand",
                generator=True,
                surplus=True,
                unit_sheet="hybrid-6",
                battery_modules=(5,),
                roofs=(Roof(name="South", azimuth_deg=180, tilt_deg=45, strings=((0, "A", 9), (0, "B", 9))),),
            ),
        ),
        StartingPoint(
            "S",
            "One three-phase hybrid on a three-phase supply, backup panel",
            Wanted(
                title="Quern Hall Joinery",
                place="Quern Hall, Upper Orle",
                system="three phases",
                rating_a=63,
                earthing="TN-S",
                arrangement="across all phases",
                backup="panel",
                circuits="workshop",
                battery_sheet="battery-52",
                battery_modules=(4,),
                roofs=(
                    Roof(
                        name="South-west", azimuth_deg=215, tilt_deg=30, strings=((0, "A", 12), (0, "B", 12))
                    ),
                ),
            ),
        ),
    )


KINDS: dict[str, StartingPoint] = {point.letter: point for point in _points()}
