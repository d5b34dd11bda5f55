"""Members of the family among the other processes of a machine."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path
from unittest import TestCase, skipUnless

AUTOGROUP = Path("/proc/self/autogroup")
CODE = """
import os
from giftwrap.launch.member import give_way
if {leads}:
    os.setpgrp()
give_way(7)
print(os.nice(0), os.getsid(0) == os.getpid() == os.getpgrp())
print(open("{autogroup}").read() if os.path.exists("{autogroup}") else "")
"""


def give_way(*, leads: bool) -> list[str]:
    """What a process that has given way says of itself; supervisor's lead a group of processes."""
    code = CODE.format(leads=leads, autogroup=AUTOGROUP)
    return subprocess.check_output([sys.executable, "-c", code], text=True).splitlines()


class GivingWayTests(TestCase):
    def test_it_is_nice_in_a_session_of_its_own(self) -> None:
        for leads in (True, False):
            self.assertEqual(give_way(leads=leads)[0], f"{os.nice(0) + 7} True")

    @skipUnless(AUTOGROUP.exists(), "this kernel does not share time between sessions")
    def test_its_session_is_nice_beside_others(self) -> None:
        """sched(7): beside other sessions it is the autogroup's niceness that counts."""
        self.assertRegex(give_way(leads=True)[1], r"/autogroup-\d+ nice 7")
