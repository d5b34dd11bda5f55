"""Reading what strangers made: every parser and every rasteriser of files works in a process of its own.

`read_apart` is the way in. A file that takes too long, too much memory or brings its reader down is
refused in words; whoever asked goes on, and so does everybody else.
"""

from giftwrap.core.reading.limits import ARTWORK, DRAWING, MODEL, PANORAMA, PHOTO, PICTURE, Limits
from giftwrap.core.reading.reader import Reader, read_apart, start_reading

__all__ = [
    "ARTWORK",
    "DRAWING",
    "MODEL",
    "PANORAMA",
    "PHOTO",
    "PICTURE",
    "Limits",
    "Reader",
    "read_apart",
    "start_reading",
]
