"""The SPICE program, for tests that compare with it."""
import os
import re
import subprocess
import tempfile
import unittest

import trials


def measurements(deck):
    """What the deck measures, run in batch mode: name to number. Where few trials are asked for (under the
    sanitizers, which look at the program that wrote the deck) that is all: the comparison has had its turn."""
    if trials.few():
        raise unittest.SkipTest("the deck is written; fewer trials are asked for than a comparison takes")
    with tempfile.TemporaryDirectory() as folder:
        path = os.path.join(folder, "deck.cir")
        with open(path, "w") as file:
            file.write(deck)
        run = subprocess.run(["ngspice", "-b", path], capture_output=True, text=True, cwd=folder, timeout=400)
    return {name: float(value) for name, value in
            re.findall(r"^(\w+)\s*=\s*([-+0-9.eE]+)", run.stdout, re.MULTILINE)}
