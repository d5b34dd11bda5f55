"""Twelve varied bodies: round, oval, square, pushed up, with uneven walls, tubes, cups and tins."""

from __future__ import annotations

from giftwrap.core.form.finishes import finish_named
from giftwrap.core.model import (
    Body,
    Corner,
    Oval,
    OwnOutline,
    Polygon,
    Rectangle,
    Round,
    SectionMark,
    Squircle,
)
from giftwrap.core.model.body import Section
from giftwrap.core.tests.samples import bottle, cylinder, profile


def changing(low: Section, until: float, from_: float) -> list[SectionMark]:
    """One section up to a height, round from another."""
    return [SectionMark(height=until, section=low), SectionMark(height=from_, section=Round())]


def shouldered(**more: object) -> Body:
    values: dict = {"wall_thickness": 2.4, "base_thickness": 5, "finish": finish_named("28-400"), **more}
    return Body(profile=profile((36, 0, 6), (36, 140, 20), (13.1, 172, 12), (13.1, 190)), **values)


KIDNEY = OwnOutline(
    points=[(0, -6), (7, -8), (11, -3), (9, 5), (4, 6), (0, 5), (-4, 6), (-9, 5), (-11, -3), (-7, -8)]
)

TWELVE: dict[str, Body] = {
    "tumbler": cylinder(36, 150),
    "bottle": bottle(),
    "pushed up": shouldered(push_up=14),
    "uneven walls": shouldered(push_up=6, zone_walls={"heel": 4.5, "shoulder": 3.2}),
    "waisted": Body(
        profile=profile((30, 0, 1), (38, 40, 12), (22, 80, 9), (34, 120, 0), (12, 150, 2), (12, 175)),
        wall_thickness=3,
        base_thickness=5,
    ),
    "curved": Body(
        profile=[
            Corner(radius=28, height=0, rounding=3),
            Corner(radius=38, height=50, leave="curve"),
            Corner(radius=24, height=95, leave="curve"),
            Corner(radius=30, height=130, leave="arc", bulge=5, rounding=2),
            Corner(radius=13, height=152, rounding=2),
            Corner(radius=13, height=170),
        ],
        wall_thickness=2,
        base_thickness=4,
    ),
    "oval": shouldered(sections=changing(Oval(depth_ratio=0.6), 138, 176), push_up=4),
    "square": shouldered(sections=changing(Rectangle(depth_ratio=1, corner=0.25), 138, 176)),
    "squircle jar": Body(
        profile=profile((40, 0, 4), (40, 70)),
        sections=[SectionMark(height=0, section=Squircle(squareness=5))],
        wall_thickness=3,
        base_thickness=6,
    ),
    "hexagon": shouldered(sections=changing(Polygon(sides=6, corner=0.2), 138, 176)),
    "tube": Body(
        profile=profile((29, 0), (29, 8), (19, 120, 2), (9, 126, 1), (9, 128)),
        sections=[
            SectionMark(height=8, section=Rectangle(depth_ratio=0.025, corner=0.9)),
            SectionMark(height=105, section=Round()),
        ],
        wall_thickness=0.5,
        base_thickness=0.5,
    ),
    "own outline": Body(
        profile=profile((40, 0, 4), (40, 110)),
        sections=[SectionMark(height=0, section=KIDNEY)],
        wall_thickness=2.5,
        base_thickness=5,
    ),
}
