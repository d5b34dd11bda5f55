"""What stands on a set, and where: drawing it and arranging it, without saving anything."""

from dataclasses import asdict
from typing import Any, Literal

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from giftwrap.core import model as core
from giftwrap.core.errors import GiftwrapError, PackError
from giftwrap.core.model.arrangement import Arrangement, SetUpName, Stand, StandModel, TakeAway
from giftwrap.core.model.document import Fraction
from giftwrap.core.model.photo_set import OfPack
from giftwrap.core.stage.arranging import arranged
from giftwrap.core.stage.camera import ray_through
from giftwrap.core.stage.fitting import fitted_camera
from giftwrap.core.stage.lights import vector_of
from giftwrap.core.stage.placing import NEW
from giftwrap.core.stage.plan import plan_of
from giftwrap.core.stage.setups import SETUPS
from giftwrap.core.stage.standing import Placed, extent_of, line_up
from giftwrap.core.stage.touching import first_touched
from giftwrap.studio.jobs.frames import Unsaved, frame_of, pack_keys
from giftwrap.studio.jobs.models import Shot
from giftwrap.studio.jobs.shapes import shape_for_page, things_of
from giftwrap.studio.numbers import Id

router = Router()
Place = tuple[float, float, float]


class PlanIn(Schema):
    """A set and a shot as they are on the page."""

    photo_set: core.PhotoSet
    shot: core.Shot


class ArrangeIn(PlanIn):
    how: Arrangement


class StandsOut(Schema):
    """Something that stands there.

    key : of what it is: a pack's, or a prop's with “prop:” before it
    footprint, side : what it covers of the floor, and seen from the right, (y, z), mm
    pose : 4 × 4, row by row
    lifted : mm that its lowest point is above the floor; air : above what is beneath it, less than nothing
        where it is sunk in; crosses : what it runs into, by id
    """

    id: str
    key: str
    footprint: list[tuple[float, float]]
    side: list[tuple[float, float]]
    pose: list[float]
    lifted: float
    air: float
    crosses: list[str]


class ViewOut(Schema):
    """Where the camera stands (mm), what it takes in (degrees; mm when orthographic), by how much of its
    width and height the picture is moved to the right and up, and how far it is rolled (degrees)."""

    position: Place
    target: Place
    vertical_angle: float
    width: float | None
    height: float | None
    shift: float
    rise: float
    roll: float


class SharpOut(Schema):
    """What is sharp, mm along the camera's axis, and corners of it, near ones first."""

    near: float
    focus: float
    far: float | None
    above: list[Place]
    side: list[Place]


class HungOut(Schema):
    """Where a light is: mm from its middle to that of its right and of its upper edge, as seen from what it
    lights; and what it is aimed at."""

    centre: Place
    across: Place
    up: Place
    target: Place


class FaultOut(Schema):
    """Something wrong with where something is.

    what : a light or the camera is inside of a thing, or a thing beyond the sweep or in its curve
    thing : its id; light : its number on the set; by : mm it is beyond
    """

    what: Literal["light", "camera", "beyond", "curve"]
    thing: str
    light: int | None
    by: float


class PlanOut(Schema):
    """Places in mm.

    sweep : its line from the side, (y, z) from the top of its wall to the front
    photo_set, shot_camera : as they have arranged themselves, or as somebody has arranged them
    fit : whether the picture takes in what stands; reach : mm of that
    gone : what stands there and cannot, by id, with why
    """

    middle: Place
    lights: list[HungOut]
    camera: Place
    target: Place
    sweep: list[tuple[float, float]]
    photo_set: core.PhotoSet
    shot_camera: core.Camera
    view: ViewOut
    fit: Literal["fits", "cropped", "small"]
    reach: float
    stands: list[StandsOut]
    sharp: SharpOut | None
    faults: list[FaultOut]
    gone: dict[str, str]


class SetUpOut(Schema):
    """Lights for a purpose; `neutral` where they have no colour of their own."""

    what: SetUpName
    title: str
    words: str
    neutral: bool


class ArrangedOut(Schema):
    photo_set: core.PhotoSet


class TouchIn(PlanIn):
    """A place of the picture, 0..1 from its left and its top."""

    x: Fraction
    y: Fraction


class TouchOut(Schema):
    """A place on what stands there, mm, and on what it is."""

    place: Place
    standing: str
    part: str


@router.post("/shots/{shot_id}/plan", response=PlanOut)
def plan(request: HttpRequest, shot_id: Id, data: PlanIn) -> Any:
    """Draw the set of a shot without saving it. What is gone from the job is left out, and named."""
    shot = get_object_or_404(Shot.objects.select_related("job"), pk=shot_id)
    gone = _gone(shot, data.photo_set)
    placed = _placed(shot, _left(data.photo_set, gone), data.shot)
    drawn = plan_of(data.photo_set, data.shot, placed)
    return {**asdict(drawn), "photo_set": drawn.photo_set, "shot_camera": drawn.shot_camera, "gone": gone}


@router.post("/shots/{shot_id}/arrange", response=ArrangedOut)
def arrange(request: HttpRequest, shot_id: Id, data: ArrangeIn) -> dict[str, core.PhotoSet]:
    """What stands, arranged: put down, copied, in a row or an arc, apart, on the floor, grouped.

    What is gone from the job stays where it is, but for being taken away.
    """
    shot = get_object_or_404(Shot.objects.select_related("job"), pk=shot_id)
    gone = _gone(shot, data.photo_set)
    unsaved = Unsaved(photo_set=_left(data.photo_set, gone), shot=data.shot)
    more = (data.how.pack,) if isinstance(data.how, Stand) else ()
    frame = frame_of(shot, unsaved=unsaved, more=more)
    if isinstance(data.how, TakeAway):
        return {"photo_set": arranged(frame.model_copy(update={"photo_set": data.photo_set}), data.how, {})}
    things = things_of(frame)
    if isinstance(data.how, Stand) and data.how.pack in frame.packs:
        pack = core.dressed(data.how.pack, frame.packs[data.how.pack], frame.palette)
        things[data.how.pack] = shape_for_page(pack).thing
    if isinstance(data.how, StandModel):
        pack = core.said_in_full(core.Pack(form=data.how.received), frame.palette)
        things[NEW] = shape_for_page(pack).thing
    result = arranged(frame, data.how, things)
    lost = [one for one in data.photo_set.standing if one.id in gone]
    return {"photo_set": result.model_copy(update={"standing": [*result.standing, *lost]})}


@router.get("/set-ups", response=list[SetUpOut])
def set_ups(request: HttpRequest) -> list[dict[str, Any]]:
    """Lights that belong together, each for a purpose."""
    return [
        {"what": what, "title": one.title, "words": one.words, "neutral": one.neutral}
        for what, one in SETUPS.items()
    ]


@router.post("/shots/{shot_id}/touch", response=TouchOut)
def touch(request: HttpRequest, shot_id: Id, data: TouchIn) -> Any:
    """What the camera sees at a place of the picture. 422 where nothing stands."""
    shot = get_object_or_404(Shot.objects.select_related("job"), pk=shot_id)
    placed = _placed(shot, _left(data.photo_set, _gone(shot, data.photo_set)), data.shot)
    camera = fitted_camera(data.shot, extent_of(placed), data.shot.aspect)
    met = first_touched(placed, *ray_through(camera, data.shot.aspect, data.x, data.y))
    if met is None:
        raise PackError("Nothing stands there: point at a pack.", "x")
    return {"place": vector_of(met.place), "standing": met.standing, "part": met.part}


def _placed(shot: Shot, photo_set: core.PhotoSet, document: core.Shot) -> list[Placed]:
    """What is to be seen; nothing when it cannot be built: the proof says what is wrong with it."""
    try:
        frame = frame_of(shot, unsaved=Unsaved(photo_set=photo_set, shot=document))
        return line_up(frame, things_of(frame))
    except GiftwrapError:
        return []


def _gone(shot: Shot, photo_set: core.PhotoSet) -> dict[str, str]:
    """What stands there of packs that are not in the job any more, and what to do."""
    there = pack_keys(shot.job)
    return {
        one.id: f"Its pack “{one.of.pack}” is not in the job any more: take it away, or fetch the pack back."
        for one in photo_set.standing
        if isinstance(one.of, OfPack) and one.of.pack not in there
    }


def _left(photo_set: core.PhotoSet, gone: dict[str, str]) -> core.PhotoSet:
    """A set without what is gone."""
    left = [one for one in photo_set.standing if one.id not in gone]
    return photo_set.model_copy(update={"standing": left})
