"""Files that mean harm: refused in words, within limits, and nobody else is the worse for it."""

from __future__ import annotations

import json
import os
import signal
import threading
import time
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase
from unittest.mock import patch

from giftwrap.core.errors import ArtworkError, GiftwrapError, PackError
from giftwrap.core.form import tracing
from giftwrap.core.form.tracing import read_photo
from giftwrap.core.formats import profiles
from giftwrap.core.formats.profiles import read_outline, read_profile
from giftwrap.core.reading import ARTWORK, DRAWING, PHOTO, Reader, artwork, start_reading
from giftwrap.core.reading.artwork import rasterise, read_artwork
from giftwrap.core.reading.reader import EVERYTHING
from giftwrap.core.received.reading import read_model
from giftwrap.core.tests.hostile import HEAVY, Hostile, filtered, hostile_files, nested, svg
from giftwrap.core.tests.samples import png

HERE = __name__
QUICK = {"seconds": 1.0, "cpu_seconds": 1}
READ = {
    "artwork": read_artwork,
    "profile": read_profile,
    "outline": read_outline,
    "photo": read_photo,
    "model": read_model,
}
PEAK = 1_500_000_000


def costs(data: bytes, what: str) -> tuple[dict, bytes]:
    """Do in the reading process what a hostile file might make a parser do."""
    if what == "time":
        time.sleep(60)
    elif what == "computing":
        while True:
            pass
    elif what == "memory":
        return {"size": len(bytearray(3_000_000_000))}, b""
    elif what == "death":
        os.kill(os.getpid(), signal.SIGSEGV)
    elif what == "recursion":
        return costs(data, what)
    elif what == "an answer":
        return {}, b"x" * 2_000_000
    elif what == "files":
        kept = [os.open("/dev/null", os.O_RDONLY) for _ in range(200)]
        return {"kept": len(kept)}, b""
    elif what == "writing":
        Path(data.decode()).write_bytes(b"x" * 5_000_000)
    elif what == "no number":
        return {"value": float("nan")}, b""
    elif what == "an error":
        raise KeyError("nobody foresaw this")
    return {"pid": os.getpid(), "open": [p.name for p in Path("/proc/self/fd").iterdir()]}, data


def setUpModule() -> None:
    start_reading(EVERYTHING)


class ReaderTests(TestCase):
    def setUp(self) -> None:
        self.reader = Reader([HERE])
        self.addCleanup(self.reader.stop)

    def read(self, what: str, data: bytes = b"quince", **limits: float) -> object:
        allowed = replace(ARTWORK, **limits)
        return self.reader.read(
            f"{HERE}:costs", data, "a.svg", limits=allowed, refusal=ArtworkError, what=what
        )

    def refusal(self, what: str, **limits: float) -> str:
        with self.assertRaises(ArtworkError) as caught:
            self.read(what, **limits)
        self.assertIn("a.svg", caught.exception.message)
        return caught.exception.message

    def test_a_sound_file_comes_back_with_what_it_cost(self) -> None:
        found = self.read("nothing", b"pear" * 1000)
        self.assertEqual(found.body, b"pear" * 1000)
        self.assertTrue(found.seconds < 5 and 1e6 < found.peak < PEAK)
        self.assertNotEqual(found.head["pid"], os.getpid())

    def test_every_limit_is_told_in_its_own_words(self) -> None:
        for what, words in {
            "time": "more than 1 s to draw",
            "computing": "more than 1 s to draw",
            "memory": "1.7 GB of memory",
            "death": "damaged or nested too deeply",
            "recursion": "damaged or nested too deeply",
            "files": "Too many open files",
            "no number": "damaged",
            "an error": "nobody foresaw this",
        }.items():
            with self.subTest(what):
                self.assertIn(words, self.refusal(what, **QUICK))
        self.assertIn("damaged", self.refusal("an answer", answer=1_000_000))

    def test_nothing_large_is_written_to_the_disk(self) -> None:
        with TemporaryDirectory() as folder:
            target = Path(folder) / "left behind"
            with self.assertRaises(ArtworkError):
                self.read("writing", str(target).encode(), answer=1_000_000)
            self.assertLessEqual(target.stat().st_size, 1_000_000)

    def test_a_dead_reading_process_is_replaced(self) -> None:
        first = self.read("nothing")
        before = self.reader.pid
        os.kill(before, signal.SIGKILL)
        second = self.read("nothing")
        self.assertEqual(first.body, second.body)
        self.assertNotEqual(before, self.reader.pid)

    def test_one_that_dies_while_it_reads_is_asked_again(self) -> None:
        self.reader.start()
        threading.Timer(0.4, lambda: os.kill(self.reader.pid, signal.SIGKILL)).start()
        self.assertIn("more than 2 s", self.refusal("time", seconds=2.0))

    def test_copies_do_not_hold_each_other_up_nor_see_each_other(self) -> None:
        self.read("nothing")  # by now it has started
        slow = threading.Thread(target=lambda: self.refusal("time", seconds=3.0))
        slow.start()
        began = time.monotonic()
        found = self.read("nothing")
        self.assertLess(time.monotonic() - began, 2.5)
        self.assertLess(len(found.head["open"]), 10, "no descriptors of other files")
        slow.join()

    def test_known_files_do_not_wait_behind_new_ones(self) -> None:
        self.read("nothing")  # by now it has started
        slow = [threading.Thread(target=lambda: self.refusal("time", seconds=3.0)) for _ in range(2)]
        for thread in slow:
            thread.start()
        time.sleep(0.3)
        began = time.monotonic()
        call = {"limits": ARTWORK, "refusal": ArtworkError, "what": "nothing"}
        self.reader.read(f"{HERE}:costs", b"", "known.svg", known=True, **call)
        self.assertLess(time.monotonic() - began, 2.0)
        for thread in slow:
            thread.join()

    def test_an_answer_that_is_no_answer_is_refused(self) -> None:
        with patch("giftwrap.core.reading.reader._answer_in", return_value=None):
            self.assertIn("damaged", self.refusal("nothing"))


class HostileTests(TestCase):
    """The whole set, with a second instead of ten for the heavy ones."""

    def try_out(self, file: Hostile) -> str:
        """What was said; "" when it was taken in. Anything but a refusal in words fails the test."""
        try:
            READ[file.importer](file.make(), file.name)
        except GiftwrapError as error:
            self.assertIn(file.name, error.message)
            self.assertLess(len(error.message), 600, file.name)
            self.assertNotIn("Traceback", error.message)
            self.assertNotIn("<_io", error.message)
            return error.message
        return ""

    def test_what_is_merely_wrong_is_refused_or_read(self) -> None:
        files = [f for f in hostile_files() if not f.heavy]
        self.assertGreater(len(files), 210)
        said = {(f.importer, f.name): self.try_out(f) for f in files}
        self.assertGreater(sum(map(bool, said.values())), 130)
        for name in ("outside picture.svg", "file picture.svg", "script.svg", "outside entity.svg"):
            self.assertTrue(said["artwork", name], name)

    def test_what_costs_time_or_memory_is_stopped(self) -> None:
        quick = {
            (artwork, "ARTWORK"): replace(ARTWORK, **QUICK),
            (profiles, "DRAWING"): replace(DRAWING, **QUICK),
            (tracing, "PHOTO"): replace(PHOTO, seconds=4.0),
        }
        for (module, name), limits in quick.items():
            limited = patch.object(module, name, limits)
            limited.start()
            self.addCleanup(limited.stop)
        stopped = ("300 groups.svg", "a million letters.svg", "turbulence.svg", "morphology.svg")
        stopped += ("picture of 30000.svg", "thin view.svg", "thin page.svg", "deep.svg", "many lines.dxf")
        for file in HEAVY:
            with self.subTest(file.name):
                began = time.monotonic()
                said = self.try_out(file)
                self.assertLess(time.monotonic() - began, 30)
                if file.name in stopped:
                    self.assertTrue(said)


class WordsTests(TestCase):
    def test_thin_artwork_is_refused_with_its_size(self) -> None:
        with self.assertRaisesRegex(ArtworkError, "0.1 wide and 99999 high"):
            read_artwork(svg("", 'width="0.1mm" height="99999mm"'), "thin.svg")

    def test_large_drawings_are_refused_and_not_cut_short(self) -> None:
        for read in (read_profile, read_outline):
            with self.assertRaisesRegex(PackError, "21 MB.*at most 20 MB"):
                read(b" " * 21_000_000, "large.svg")

    def test_points_that_are_no_numbers_name_where(self) -> None:
        data = svg('<path id="profile" d="M30 95L1e30 3L30 0"/>')
        with self.assertRaisesRegex(PackError, r"reaches to 1e\+30"):
            read_profile(data, "far.svg")

    def test_a_nested_drawing_does_not_take_the_process_with_it(self) -> None:
        with self.assertRaisesRegex(ArtworkError, "nested too deeply"):
            read_artwork(nested(20_000), "deep.svg")
        self.assertEqual(read_artwork(png(), "fine.png").width_px, 40)

    def test_drawing_after_reading_is_limited_too(self) -> None:
        heavy = filtered('<feTurbulence baseFrequency="0.9" numOctaves="9999"/>')
        with self.assertRaisesRegex(ArtworkError, "more than 1 s to draw"):
            rasterise(heavy, "svg", 600, 400, limits=replace(ARTWORK, **QUICK))

    def test_everything_a_reader_loads_is_there(self) -> None:
        reader = Reader(EVERYTHING)
        self.addCleanup(reader.stop)
        head = reader.read(
            "giftwrap.core.reading.parsing:artwork_facts",
            png(),
            "a.png",
            limits=ARTWORK,
            refusal=ArtworkError,
            filename="a.png",
            trial=True,
        ).head
        self.assertEqual(json.loads(json.dumps(head))["kind"], "png")
