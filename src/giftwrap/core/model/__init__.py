"""The documents of a job. Lengths are mm, angles degrees, z is up, the pack stands on z = 0."""

from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.pack import Body, Closure, Contents, Corner, Pack, Panel, Placement
from giftwrap.core.model.stage import Camera, Grade, PhotoSet, Shot, Softbox, Surround, Sweep

__all__ = [
    "Body",
    "Camera",
    "Clear",
    "Closure",
    "Cloudy",
    "Contents",
    "Corner",
    "Grade",
    "Metal",
    "Opaque",
    "Pack",
    "Panel",
    "PhotoSet",
    "Placement",
    "Shot",
    "Softbox",
    "Surround",
    "Sweep",
]
