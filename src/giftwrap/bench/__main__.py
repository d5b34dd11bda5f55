"""`./giftwrap bench`: how fast the things people wait for are, on this machine, now."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable, Iterator

from giftwrap.bench import (
    carton,
    final,
    form,
    hand,
    imports,
    light,
    materials,
    on_set,
    proof,
    range,
    share,
    start,
    truth,
    walls,
    wrap,
)
from giftwrap.bench.figure import Figure

BENCHES: dict[str, Callable[[], Iterator[Figure]]] = {
    "carton": carton.run,
    "form": form.run,
    "hand": hand.run,
    "import": imports.run,
    "light": light.run,
    "materials": materials.run,
    "proof": proof.run,
    "final": final.run,
    "range": range.run,
    "set": on_set.run,
    "share": share.run,
    "start": start.run,
    "truth": truth.run,
    "walls": walls.run,
    "wrap": wrap.run,
}


def main() -> int:
    """Run the named benchmarks, or all, and print a table or JSON."""
    parser = argparse.ArgumentParser(prog="./giftwrap bench", description=__doc__)
    parser.add_argument("name", nargs="?", choices=sorted(BENCHES))
    parser.add_argument("--json", action="store_true", help="a list of name, value, unit, target, better")
    arguments = parser.parse_args()
    names = [arguments.name] if arguments.name else list(BENCHES)
    figures = []
    for name in names:
        for figure in BENCHES[name]():
            figures.append(figure)
            if not arguments.json:
                print(figure.line(), flush=True)
    if arguments.json:
        json.dump([figure.as_dict() for figure in figures], sys.stdout, indent=1)
        print()
    return 0


if __name__ == "__main__":
    sys.exit(main())
