"""Proofs in a rendering process: refining gives way when somebody's first look waits."""

from __future__ import annotations

import uuid

from distributed import get_worker

from giftwrap.core.render.job import PictureJob
from giftwrap.core.render.proof import ProofPicture, proof_pass

FIRST_LOOK = "first-look"


def name_of_pass(number: int) -> str:
    """A name for the work on a pass: never the same again, and first looks are known by it."""
    return f"{'refining' if number else FIRST_LOOK}-{uuid.uuid4().hex}"


def pass_that_gives_way(job: PictureJob, key: str, number: int) -> ProofPicture | None:
    """A pass of a proof (`core.render.proof.proof_pass`); None when a first look came to wait."""
    waiting = get_worker().state.constrained
    return proof_pass(
        job, key, number, lambda: any(task.key.startswith(FIRST_LOOK) for task in list(waiting))
    )
