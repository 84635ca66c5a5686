"""The SPICE program, for tests that compare with it."""
import os
import re
import subprocess
import tempfile


def measurements(deck):
    """What the deck measures, run in batch mode: name to number."""
    with tempfile.TemporaryDirectory() as folder:
        path = os.path.join(folder, "deck.cir")
        with open(path, "w") as file:
            file.write(deck)
        run = subprocess.run(["ngspice", "-b", path], capture_output=True, text=True, cwd=folder, timeout=400)
    return {name: float(value) for name, value in
            re.findall(r"^(\w+)\s*=\s*([-+0-9.eE]+)", run.stdout, re.MULTILINE)}
