"""How something comes to rest on what is beneath it: let down, it touches, and leans until it is carried.

Where it rests its centre of mass is as low as it gets without anything crossing. For a little move (down, and
leaning about two axes) that is a linear programme: least height, above every place of what is beneath. In its
solution the places that carry are those whose conditions are met with nothing to spare, and the prices of
these are the forces there: they bear the weight and have no moment about the centre of mass (by duality), so
that what is found stands by itself. Little moves are made until the next one is too small to be seen.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linprog
from shapely import MultiPoint, Point, STRtree, box, points

from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.topology import holds
from giftwrap.core.mesh.transform import points_moved, shift
from giftwrap.core.mesh.triangles import normals_of
from giftwrap.core.stage.standing import KEPT_PLACES, Placed, crosses, outline_of
from giftwrap.core.stage.sweep import FLOOR_GAP
from giftwrap.core.things.thing import Thing

STEP = np.radians(3.0)
"""The largest lean of one move."""
MOVES = 60
TIPS = 50.0
"""Degrees: what would lean further does not stay there."""
STILL_MM, STILL = 0.01, 2e-4
"""Mm down and radians of lean of a move that is too small to be seen."""
LEANS_LITTLE = 1e-3
"""Mm per radian that are given up for not leaning, where that hardly makes a difference."""
SOME = 700
"""Places of a surface that moves are found by; where it ends up is found by all."""
ALONG = 40
"""Places on an edge that is as long as the thing."""
LIFTS = (0.0, 0.04, 0.1, 0.2, 0.35)
"""Mm that something is lifted by where it would cross what it lies on, one after the other."""
BEARS = 1e-6
"""Share of the weight from which on a place carries."""
CEILING = 0.9
"""What is beneath something reaches into it by no more than this share of its height, unless its foot is in
it."""
GIVES = 1.0
"""Mm that what carries something upright may be uneven by, and that its centre may be beyond it."""
UPRIGHT = np.cos(np.radians(5.0))
"""What leans further than this was made to lean, and stays so."""


@dataclass(frozen=True, eq=False)
class Rest:
    """Where something comes to rest.

    pose : (4, 4) float
    carried : (n, 3) float, the places that carry it, mm; forces : (n,) the share of its weight on each
    leans : degrees that it leans further than it did
    stands : it does not tip over
    """

    pose: Array
    carried: Array
    forces: Array
    leans: float
    stands: bool


def come_to_rest(
    one: Placed, others: Sequence[Placed], *, upright: bool = False, above: bool = False
) -> Rest:
    """Where something comes to rest that is let down where it is; what it is sunk in lifts it first.

    upright : it does not lean
    above : it falls from above everything; else what it reaches under stays above it, unless they cross
    """
    over = {other.id for other in others} if above else set()
    found = _rested(one, others, over, upright=upright)
    in_the_way = _crossed(one, found.pose, others) - over
    if not in_the_way:
        return found
    onto = _rested(one, others, over | in_the_way, upright=upright)
    return onto if onto.stands else found


def _rested(one: Placed, others: Sequence[Placed], over: Collection[str], *, upright: bool) -> Rest:
    """`over` names what it lies on or beside, never under."""
    own, ground = _own_of(one.thing), _beneath(one, others, over)
    pose = _let_down(own, one.pose, ground)
    carried, forces, stands, leans = np.zeros((0, 3)), np.zeros(0), False, 0.0
    if upright:
        return Rest(_clear(one, pose, others), carried, forces, 0.0, _carried(own, pose, ground))
    for _ in range(MOVES):
        places, gaps, centre = _near(own, pose, ground)
        move, prices = _lowered(places - centre, gaps)
        bears = prices > BEARS
        carried, forces = places[bears], prices[bears]
        stands = abs(move[0]) < STILL_MM and float(np.abs(move[1:]).max()) < STILL
        if stands or leans > TIPS:
            break
        pose = _let_down(own, _leant(pose, centre, move), ground, SOME)
        leans = _turned_by(one.pose, pose)
    return Rest(_clear(one, _let_down(own, pose, ground), others), carried, forces, leans, stands)


def _clear(one: Placed, pose: Array, others: Sequence[Placed]) -> Array:
    """A pose that crosses nothing: edges that meet between the places looked at lift it a little."""
    for lift in LIFTS:
        lifted = np.asarray(shift(0.0, 0.0, lift) @ pose)
        if not _crossed(one, lifted, others):
            return lifted
    return pose


def _crossed(one: Placed, pose: Array, others: Sequence[Placed]) -> set[str]:
    """What something would cross, by id."""
    here = replace(one, pose=pose)
    points_own = points_moved(one.thing.hull, pose)[:, :2]
    low, high = points_own.min(axis=0), points_own.max(axis=0)
    near = [other for other in others if other.id != one.id and _meets(other, low, high)]
    return {other.id for other in near if crosses(here, other)}


def _carried(own: _Own, pose: Array, ground: _Ground) -> bool:
    """Whether what touches carries the centre of mass, of something that is not to lean."""
    if pose[2, 2] < UPRIGHT:
        return True
    places, gaps = _air(own, pose, ground)
    centre = points_moved(own.centre[None], pose)[0]
    foot = MultiPoint(places[gaps < GIVES][:, :2]).convex_hull
    return bool(foot.buffer(GIVES).contains(Point(centre[:2])))


def gap_beneath(one: Placed, others: Sequence[Placed]) -> float:
    """Mm between something and what it would fall on: 0 where it rests, less where it is sunk in."""
    low, high, reach = _room(one)
    near = [other for other in others if other.id != one.id and _meets(other, low - reach, high + reach)]
    parts = [one.pose.tobytes()]
    for other in near:
        parts += [*(mesh.digest for mesh in other.thing.meshes), other.pose.tobytes()]
    place, known = b"".join(parts), _airs.setdefault(one.thing, {})
    air = known.get(place)
    if air is None:
        air = float(_air(_own_of(one.thing), one.pose, _beneath(one, near, ()))[1].min())
        if len(known) >= KEPT_PLACES:
            known.clear()
        known[place] = air
    return air


_airs: WeakKeyDictionary[Thing, dict[bytes, float]] = WeakKeyDictionary()
"""Of things where they are, among what is near: asked again whenever a set is drawn."""


def _room(one: Placed) -> tuple[Array, Array, float]:
    """Least and greatest x and y of something, and how far about it a lean may take it, mm."""
    low, high = (outline := outline_of(one)).low, outline.high
    return low[:2], high[:2], 0.3 * float(high[2] - low[2])


def _lowered(arms: Array, gaps: Array) -> tuple[Array, Array]:
    """The move, (up, about x, about y), that brings the centre lowest, and the share of the weight that each
    place bears.

    arms : (n, 3) from the centre of mass; gaps : (n,) mm of air there
    """
    # up + a y − b x ≥ −gap; a and b are differences of what is not negative, so that leaning costs
    rows = np.column_stack([-np.ones(len(arms)), -arms[:, 1], arms[:, 1], arms[:, 0], -arms[:, 0]])
    far = 4.0 * float(np.abs(arms).max()) * STEP + float(np.abs(gaps).max(initial=0.0)) + 1.0
    bounds = [(-far, far), *[(0.0, STEP)] * 4]
    found = linprog([1.0, *[LEANS_LITTLE] * 4], A_ub=rows, b_ub=gaps, bounds=bounds, method="highs")
    up, a, a_back, b, b_back = found.x
    return np.array([up, a - a_back, b - b_back]), -np.asarray(found.ineqlin.marginals)


def _leant(pose: Array, centre: Array, move: Array) -> Array:
    """A pose after a move: leaning about the centre of mass, then up."""
    up, a, b = move
    angle = float(np.hypot(a, b))
    turn = np.eye(3)
    if angle > 0:
        x, y = a / angle, b / angle
        cross = np.array([[0, 0, y], [0, 0, -x], [-y, x, 0]])
        turn = np.eye(3) + np.sin(angle) * cross + (1 - np.cos(angle)) * cross @ cross
    moved = np.eye(4)
    moved[:3, :3] = turn
    moved[:3, 3] = centre - turn @ centre + np.array([0.0, 0.0, up])
    return np.asarray(moved @ pose)


def _turned_by(before: Array, after: Array) -> float:
    """Degrees between two poses."""
    trace = np.trace(before[:3, :3].T @ after[:3, :3])
    return float(np.degrees(np.arccos(np.clip((trace - 1) / 2, -1, 1))))


class _Own:
    """What of a thing may touch down, in its own coordinates.

    places : (n, 3) points of its hull, of faces that do not look up, and along their long edges
    faces : (f, 3, 3) those faces; centre : (3,) of its mass, as if it were all of one weight
    """

    def __init__(self, thing: Thing) -> None:
        size = np.subtract(thing.bounds.high, thing.bounds.low)
        faces = np.concatenate([mesh.positions[mesh.faces] for mesh in thing.meshes])
        self.faces = faces[_rise(faces) < 0.3]
        self.places = np.vstack([thing.hull, _along(self.faces, float(size.max()) / ALONG)])
        volumes = np.einsum("nd,nd->n", faces[:, 0], np.cross(faces[:, 1], faces[:, 2])) / 6
        low, high = np.array(thing.bounds.low), np.array(thing.bounds.high)
        whole = float(volumes.sum())
        middle = (volumes[:, None] * faces.sum(axis=1) / 4).sum(axis=0) / whole if whole > 1.0 else low
        within = bool((middle > low).all() and (middle < high).all())
        self.centre = middle if within else (low + high) / 2


_owns: WeakKeyDictionary[Thing, _Own] = WeakKeyDictionary()


def _own_of(thing: Thing) -> _Own:
    if thing not in _owns:
        _owns[thing] = _Own(thing)
    return _owns[thing]


class _Ground:
    """All that something may fall on, beside the floor: (f, 3, 3) faces that look up, and (n, 3) places on
    them."""

    def __init__(self, faces: Array, step: float) -> None:
        self.faces = faces
        self.places = _along(faces, step) if len(faces) else np.zeros((0, 3))

    @cached_property
    def tree(self) -> STRtree:
        """Of the faces, seen from above."""
        return _tree(self.faces)


def _near(own: _Own, pose: Array, ground: _Ground) -> tuple[Array, Array, Array]:
    """Some places that one move may reach, with the air there, and the centre of mass."""
    places, gaps = _air(own, pose, ground, SOME)
    centre = points_moved(own.centre[None], pose)[0]
    reached = gaps < 1.0 + 3.0 * STEP * np.linalg.norm(places - centre, axis=1)
    return places[reached], gaps[reached], centre


def _let_down(own: _Own, pose: Array, ground: _Ground, some: int | None = None) -> Array:
    """A pose moved up or down until the thing touches what is beneath."""
    lowered = pose.copy()
    lowered[2, 3] -= _air(own, pose, ground, some)[1].min()
    return lowered


def _air(own: _Own, pose: Array, ground: _Ground, some: int | None = None) -> tuple[Array, Array]:
    """Places of a thing, and those beneath it, (n, 3), with the mm of air between the two there.

    some : about how many of each are enough
    """
    places = points_moved(_few(own.places, some), pose)
    gaps = places[:, 2].copy()
    if not len(ground.faces):
        return places, gaps
    under = heights_at(ground.faces, places[:, :2], ground.tree) + FLOOR_GAP
    gaps -= np.maximum(under, 0.0)
    low, high = places[:, :2].min(axis=0), places[:, :2].max(axis=0)
    tops = ground.places
    tops = _few(tops[((tops[:, :2] >= low) & (tops[:, :2] <= high)).all(axis=1)], some)
    if not len(tops):
        return places, gaps
    over = points_moved(own.faces.reshape(-1, 3), pose).reshape(-1, 3, 3) * np.array([1.0, 1.0, -1.0])
    above = -heights_at(over, tops[:, :2])
    met = np.isfinite(above)
    return np.vstack([places, tops[met]]), np.concatenate([gaps, above[met] - tops[met, 2] - FLOOR_GAP])


def _few(places: Array, some: int | None) -> Array:
    return places if some is None else places[:: max(len(places) // some, 1)]


def _rise(faces: Array) -> Array:
    """(f,) how far faces look up, 1 to −1."""
    return np.asarray(normals_of(faces)[:, 2])


def _along(faces: Array, step: float) -> Array:
    """(n, 3) the corners of faces, and places on edges that are longer than a step of mm."""
    starts = faces.reshape(-1, 3)
    ends = np.roll(faces, -1, axis=1).reshape(-1, 3)
    found = [starts]
    counts = np.minimum(np.ceil(np.linalg.norm(ends - starts, axis=1) / step).astype(int), ALONG)
    for count in np.unique(counts[counts > 1]):
        of = counts == count
        shares = (np.arange(1, count) / count)[:, None, None]
        found.append((starts[of] + shares * (ends[of] - starts[of])).reshape(-1, 3))
    return np.unique(np.round(np.vstack(found), 4), axis=0)


def _beneath(one: Placed, others: Sequence[Placed], over: Collection[str]) -> _Ground:
    own = points_moved(one.thing.hull, one.pose)
    low, high = own.min(axis=0), own.max(axis=0)
    reach = 0.3 * float(high[2] - low[2])
    foot = points_moved(_own_of(one.thing).centre[None], one.pose)[0].copy()
    foot[2] = low[2] + min(1.0, 0.1 * (high[2] - low[2]))
    found = []
    for other in others:
        if other.id == one.id or not _meets(other, low[:2] - reach, high[:2] + reach):
            continue
        ceiling = low[2] + CEILING * (high[2] - low[2])
        if other.id in over or is_in(other, foot):
            ceiling = np.inf
        for mesh in other.thing.meshes:
            faces = points_moved(mesh.positions, other.pose)[mesh.faces]
            least, most = faces.min(axis=1), faces.max(axis=1)
            near = (most[:, :2] > low[:2] - reach).all(axis=1) & (least[:, :2] < high[:2] + reach).all(axis=1)
            faces = faces[near & (least[:, 2] < ceiling)]
            found.append(faces[_rise(faces) > 1e-6])
    step = max(float((high - low)[:2].max()) / ALONG, 0.2)
    return _Ground(np.concatenate(found) if found else np.zeros((0, 3, 3)), step)


def is_in(other: Placed, place: Array) -> bool:
    """Whether a place is in what is solid of something."""
    own = points_moved(place[None], np.asarray(np.linalg.inv(other.pose), float))[0]
    return any(holds(mesh.positions, mesh.faces, own) for mesh in other.thing.meshes)


def _meets(other: Placed, low: Array, high: Array) -> bool:
    """Whether something is within a rectangle as seen from above, or nearly."""
    places = points_moved(other.thing.hull, other.pose)[:, :2]
    return bool((places.max(axis=0) > low).all() and (places.min(axis=0) < high).all())


def _tree(faces: Array) -> STRtree:
    low, high = faces[..., :2].min(axis=1), faces[..., :2].max(axis=1)
    return STRtree(box(low[:, 0], low[:, 1], high[:, 0], high[:, 1]))


def heights_at(faces: Array, places: Array, tree: STRtree | None = None) -> NDArray[np.float64]:
    """(m,) the greatest height of faces, (f, 3, 3) mm, over places, (m, 2); −∞ where there is none.

    tree : of the faces, where it is known
    """
    heights = np.full(len(places), -np.inf)
    if not len(faces) or not len(places):
        return heights
    if tree is None:
        low, high = places.min(axis=0), places.max(axis=0)
        near = (faces[..., :2].max(axis=1) >= low).all(axis=1) & (faces[..., :2].min(axis=1) <= high).all(
            axis=1
        )
        faces = faces[near]
        if not len(faces):
            return heights
        tree = _tree(faces)
    place, face = tree.query(points(places))
    flat = faces[..., :2]
    a, b, c = (flat[face, k] for k in range(3))
    one, other, to = b - a, c - a, places[place] - a
    size = one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        u = (to[:, 0] * other[:, 1] - to[:, 1] * other[:, 0]) / size
        v = (one[:, 0] * to[:, 1] - one[:, 1] * to[:, 0]) / size
        inside = (np.abs(size) > 1e-12) & (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9)
    face, place, u, v = face[inside], place[inside], u[inside], v[inside]
    z = faces[face, 0, 2] * (1 - u - v) + faces[face, 1, 2] * u + faces[face, 2, 2] * v
    np.maximum.at(heights, place, z)
    return heights
