#!/usr/bin/env python3
"""What the command-line program prints for nine designs of all feeds, gaps and banks, frozen: a move of code changes
none of it. The designs are the demo with a few changes each. Invented values, no source: they guard sameness, not
truth. `golden.py --write` freezes anew, after a change that is meant to change figures; then say so where it lands.
"""
import copy
import gzip
import json
import math
import os
import subprocess
import sys
import tempfile
import unittest

CALC = os.environ.get("HIGH_ARC_CALC", "build/bin/high-arc-calc")
ROOT = os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "..")
FROZEN = os.path.join(ROOT, "tests", "data", "golden.json.gz")
ROUNDING = 1e-6  # relative: the order of additions may change, nothing else
COMMANDS = (["analyse"], ["power", "--no-trials"], ["simulate", "--shot"], ["simulate", "--charging", "--cycles", "4"],
            ["netlist", "--shot"], ["netlist", "--charging", "--cycles", "4"], ["check"])


def block(kind, **values):
    return {"kind": kind, **values}


MAINS = [block("breaker", rated_current_a=16.0), block("variac", rated_current_a=8.0, setting=0.8)]
ROTOR = {"rotary_electrodes": 8.0, "rotor_speed_hz": 25.0}
SECTIONS = [{"name": "film", "capacitance_f": 1e-7, "voltage_v": 2000.0, "in_series": 10.0, "in_parallel": 1.0},
            {"name": "mica", "capacitance_f": 2e-8, "voltage_v": 2500.0, "in_series": 8.0, "in_parallel": 1.0}]
CHANGES = {
    "demo": {},
    "oven transformers, level shifter, rotor": {
        "feed": MAINS + [block("oven-transformers", in_series=2.0), block("level-shifter", capacitance_f=5e-7)],
        "gap": {**ROTOR, "firing_voltage_v": 6000.0}},
    "ignition coils with ballast": {
        "feed": [block("breaker"), block("ballast-capacitor", capacitance_f=2e-5), block("ignition-coils")],
        "gap": {"firing_voltage_v": 8000.0}},
    "resonant charging from a bridge, mixed bank": {
        "feed": MAINS + [block("transformer", output_v=5000.0, short_circuit_a=0.4), block("bridge"),
                         block("reservoir", capacitance_f=1e-6), block("charging-choke", inductance_h=5.0)],
        "gap": {**ROTOR, "firing_voltage_v": 9000.0}, "tank": {"sections": SECTIONS, "given_as": "mixed-bank"}},
    "full-wave doubler, two strings": {
        "feed": MAINS + [block("transformer", output_v=4000.0, short_circuit_a=0.2),
                         block("full-wave-doubler", capacitance_f=2e-7), block("charging-choke", inductance_h=8.0)],
        "tank": {"units_in_parallel": 2.0}},
    "flyback driver, one value": {
        "feed": [block("flyback-driver")],
        "tank": {"capacitance_f": 2e-9, "single_capacitance_f": 2e-9, "given_as": "one-value"},
        "gap": {"firing_voltage_v": 9000.0}},
    "dimmer, line filter and half-wave diodes": {
        "feed": [block("breaker"), block("line-filter"), block("variac"),
                 block("transformer", output_v=9000.0, short_circuit_a=0.06), block("diode-string")]},
    "locked rotor on the transformer": {
        "feed": MAINS + [block("ballast-inductor", inductance_h=0.01),
                         block("transformer", output_v=12000.0, short_circuit_a=0.1)],
        "gap": {"rotary_electrodes": 4.0, "rotor_speed_hz": 25.0, "rotor_phase_deg": 90.0},
        "primary": {"shape": "cone", "cone_angle_deg": 30.0}},
    "half-wave doubler with its reservoir, pipes": {
        "feed": MAINS + [block("oven-transformers", in_series=2.0), block("half-wave-doubler", capacitance_f=5e-7),
                         block("reservoir", capacitance_f=1e-6), block("filter-choke"),
                         block("charging-choke", inductance_h=10.0)],
        "gap": {"electrode_shape": "cylinders", "firing_voltage_v": 9000.0}, "primary": {"shape": "helix"}},
}


def designs():
    with open(os.path.join(ROOT, "examples", "quiet-lantern.json")) as file:
        demo = json.load(file)
    for name, change in CHANGES.items():
        design = copy.deepcopy(demo)
        design["name"] = name
        for key, value in change.items():
            if isinstance(value, dict):
                design[key].update(value)
            else:
                design[key] = value
        yield name, design


def print_all(design):
    out = {}
    with tempfile.TemporaryDirectory() as folder:
        path = os.path.join(folder, "design.json")
        with open(path, "w") as file:
            json.dump(design, file)
        for command in COMMANDS:
            run = subprocess.run([CALC, command[0], path, *command[1:]], capture_output=True, text=True)
            text = run.stdout if run.returncode == 0 else run.stderr.replace(path, "design")
            out[" ".join(command)] = json.loads(text) if text.startswith("{") else text.splitlines()
    return out


def differences(now, frozen, where=""):
    """Places where two printed results differ beyond rounding; numbers inside of texts count as text."""
    if isinstance(frozen, dict) and isinstance(now, dict):
        for key in frozen.keys() | now.keys():
            if key not in now or key not in frozen:
                yield f"{where}.{key}: only in one"
            else:
                yield from differences(now[key], frozen[key], f"{where}.{key}")
    elif isinstance(frozen, list) and isinstance(now, list) and len(now) == len(frozen):
        for i, (a, b) in enumerate(zip(now, frozen)):
            yield from differences(a, b, f"{where}[{i}]")
    elif isinstance(frozen, float) and isinstance(now, float):
        if not math.isclose(now, frozen, rel_tol=ROUNDING, abs_tol=1e-18):
            yield f"{where}: {now} was {frozen}"
    elif now != frozen:
        yield f"{where}: {now} was {frozen}"


class Golden(unittest.TestCase):
    def test_what_is_printed_for_nine_designs_is_what_was_frozen(self):
        with gzip.open(FROZEN, "rt") as file:
            frozen = json.load(file)
        self.assertEqual(len(frozen), 9)
        for name, design in designs():
            found = list(differences(print_all(design), frozen[name], name))
            self.assertEqual(found, [], "\n".join(found[:10]))


if __name__ == "__main__":
    if sys.argv[1:] == ["--write"]:
        with gzip.GzipFile(FROZEN, "wb", mtime=0) as file:
            file.write(json.dumps({name: print_all(d) for name, d in designs()}, sort_keys=True).encode())
    else:
        unittest.main()
