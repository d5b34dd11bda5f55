"""How much reading one file may take, and the words for what takes more."""

from __future__ import annotations

import resource
import signal
from dataclasses import dataclass

MB = 1_000_000


@dataclass(frozen=True)
class Limits:
    """What a file may cost before it is refused.

    seconds : of the clock, which run out on a machine that has other things to do as well
    cpu_seconds : of computing
    memory : bytes of address space beyond what the reading process begins with
    answer : bytes that may come of it
    open_files : at a time
    doing, relief : "to draw", and what makes it cheaper, for the words of a refusal
    """

    seconds: float
    cpu_seconds: int
    memory: int
    answer: int
    open_files: int
    doing: str
    relief: str

    def apply(self) -> None:
        """Hold this process to them from now on. What it may not have, it is killed for or refused."""
        signal.setitimer(signal.ITIMER_REAL, self.seconds)
        _limit(resource.RLIMIT_CPU, self.cpu_seconds, beyond=1)  # SIGXCPU tells more than SIGKILL does
        _limit(resource.RLIMIT_AS, _address_space() + self.memory)
        _limit(resource.RLIMIT_FSIZE, self.answer)
        _limit(resource.RLIMIT_NOFILE, self.open_files)
        _limit(resource.RLIMIT_CORE, 0)

    def took_too_long(self) -> str:
        """Why a file was refused, after its name."""
        return f"takes more than {min(self.seconds, self.cpu_seconds):g} s {self.doing}: {self.relief}"

    def took_too_much(self) -> str:
        """Why a file was refused, after its name."""
        return f"takes more than {self.memory / 1e9:.1f} GB of memory {self.doing}: {self.relief}"

    def brought_it_down(self) -> str:
        """Why a file was refused, after its name."""
        return f"cannot be read to its end, it may be damaged or nested too deeply: {self.relief}"


ARTWORK = Limits(
    seconds=40,
    cpu_seconds=20,
    memory=1_700 * MB,
    answer=400 * MB,
    open_files=64,
    doing="to draw",
    relief="simplify it where it was made (long texts, filters, nested groups, large pictures inside) "
    "and export it again.",
)
DRAWING = Limits(
    seconds=24,
    cpu_seconds=8,
    memory=800 * MB,
    answer=10 * MB,
    open_files=64,
    doing="to read",
    relief="leave only the outline in it where it was drawn and save it again.",
)
PHOTO = Limits(
    seconds=30,
    cpu_seconds=10,
    memory=1_200 * MB,
    answer=60 * MB,
    open_files=64,
    doing="to read",
    relief="save it smaller.",
)
PICTURE = Limits(
    seconds=60,
    cpu_seconds=30,
    memory=2_600 * MB,
    answer=100 * MB,
    open_files=64,
    doing="to read",
    relief="save it smaller: 4,096 px across is as fine as it is kept.",
)
PANORAMA = Limits(
    seconds=150,
    cpu_seconds=100,
    memory=2_600 * MB,
    answer=120 * MB,
    open_files=64,
    doing="to read",
    relief="save it smaller: 4,096 × 2,048 px is as fine as it is kept.",
)
MODEL = Limits(
    seconds=180,
    cpu_seconds=60,
    memory=1_900 * MB,
    answer=600 * MB,
    open_files=64,
    doing="to read",
    relief="reduce its triangles, or send its parts one by one.",
)


def _limit(what: int, value: int, *, beyond: int = 0) -> None:
    _, hard = resource.getrlimit(what)
    if hard != resource.RLIM_INFINITY:
        value = min(value, hard)
        beyond = min(beyond, hard - value)
    resource.setrlimit(what, (value, value + beyond))


def _address_space() -> int:
    """Bytes of address space that this process has (Linux; proc(5), statm)."""
    with open("/proc/self/statm", encoding="ascii") as file:  # noqa: PTH123 - the plainest way, once a file
        return int(file.read().split()[0]) * resource.getpagesize()
