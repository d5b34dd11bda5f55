"""Loaded by every rendering process at its start, so that the first picture does not wait for it.

Work functions are imported here once; the light engine compiles (or reads back) its kernels on
a tiny picture of the starting pack.
"""

from __future__ import annotations

import logging
import os
import threading
import time

from giftwrap.core.errors import RenderError
from giftwrap.core.materials.patterns import NAMES, pattern
from giftwrap.core.model import Frame
from giftwrap.core.reading import start_reading
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.proof import proof_pass
from giftwrap.core.stage.starting import starting_set, starting_shot
from giftwrap.core.things.starting import starting_pack

log = logging.getLogger(__name__)

PATTERNS_AFTER_S, NICE = 8.0, 15


def warm_up_process() -> None:
    """Make this process ready to compute light, with `GIFTWRAP_THREADS` cores or all there are.

    Where it cannot, the log says why, and so does every picture that is asked for.
    """
    start_reading()  # artwork of the first picture need not wait for it
    try:
        use_threads(int(os.environ.get("GIFTWRAP_THREADS", "0")))
        warm_up()
    except RenderError as error:
        log.error("%s", error.message)
    threading.Thread(target=_make_patterns, name="patterns", daemon=True).start()


def _make_patterns() -> None:
    """Make every pattern of materials before somebody asks for it: after the start, and behind all else."""
    time.sleep(PATTERNS_AFTER_S)
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICE)
    for name in NAMES:
        pattern(name)


def use_threads(count: int) -> None:
    """Compute light on a number of threads; 0 for as many as there are cores."""
    light_engine()
    import drjit

    if count:
        drjit.set_thread_count(count)


def warm_up() -> None:
    """Render a tiny picture and throw it away."""
    pack = starting_pack()
    shot = starting_shot()
    frame = Frame(packs={"pack": pack}, photo_set=starting_set(), shot=shot)
    proof_pass(PictureJob.of(frame, 32, 40), "warm-up", 1)
