#!/usr/bin/env python3
"""What the command-line program prints for some forty designs of all kinds, feeds, gaps and banks, frozen: a move of
code changes none of it. They are the demos, new designs on each usual feed, and changes of both. Invented values, no
source: they guard sameness, not truth. `golden.py --write` freezes anew, after a change that is meant to change
figures; `golden.py --more` says what differs and is not merely new; then say so where it lands.
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
from concurrent.futures import ThreadPoolExecutor

import trials

CALC = os.environ.get("HIGH_ARC_CALC", "build/bin/high-arc-calc")
ROOT = os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "..")
FROZEN = os.path.join(ROOT, "tests", "data", "golden.json.gz")
ROUNDING = 1e-6  # relative: the order of additions may change, nothing else
# Ways to simulate each kind; what every kind is asked besides.
WAYS = {"spark-gap": ["--shot", "--charging --cycles 4"], "exciter": ["--oscillation"], "bridge": ["--burst", "--mains"],
        "dual-resonant": ["--burst", "--mains"], "tube": ["--oscillation", "--mains"],
        "flame": ["--oscillation", "--mains"]}
INTERRUPTED = ("bridge", "dual-resonant", "tube", "flame")


def block(kind, **values):
    return {"kind": kind, **values}


MAINS = [block("breaker", rated_current_a=16.0), block("variac", rated_current_a=8.0, setting=0.8)]
ROTOR = {"rotary_electrodes": 8.0, "rotor_speed_hz": 25.0}
SECTIONS = [{"name": "film", "capacitance_f": 1e-7, "voltage_v": 2000.0, "in_series": 10.0, "in_parallel": 1.0},
            {"name": "mica", "capacitance_f": 2e-8, "voltage_v": 2500.0, "in_series": 8.0, "in_parallel": 1.0}]
SPARK_GAPS = {
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


DEMOS = ["candle-reed", "copper-heron", "glass-willow", "paper-moth", "quiet-lantern", "tin-orchard"]
FEEDS = {"spark-gap": ["sign", "ovens", "direct", "ignition", "push-pull"], "exciter": [None],
         "bridge": ["rectified", "doubled", "plain"], "dual-resonant": ["rectified", "doubled", "plain"],
         "tube": ["shifted", "full-wave", "filtered"], "flame": ["shifted", "full-wave", "filtered"]}
OTHERS = {  # name: what it begins as, and what is changed
    "dimmed spark gap": ("quiet-lantern", {"feed": {2: block("dimmer", angle_deg=70.0)}}),
    "push-pull pair": ("glass-willow", {"tube": {"pair": "push-pull", "staccato": "none"}}),
    "hartley": ("glass-willow", {"tube": {"circuit": "hartley", "staccato": "none"}}),
    "staccato, locked": ("glass-willow", {"tube": {"staccato": "cathode"}, "interrupter": {"mode": "locked"}}),
    "staccato, free": ("glass-willow", {"tube": {"staccato": "cathode"}, "interrupter": {"mode": "free"}}),
    "locked bursts": ("copper-heron", {"interrupter": {"mode": "locked"}}),
    "free bursts": ("copper-heron", {"interrupter": {"mode": "free"}}),
    "full bridge that hears its primary": ("copper-heron", {"bridge": {"legs": "full", "feedback": "primary-transformer"}}),
    "fixed drive": ("copper-heron", {"bridge": {"feedback": "fixed"}}),
}


def merged(design, change):
    design = copy.deepcopy(design)
    for key, value in change.items():
        if isinstance(value, dict) and isinstance(design.get(key), list):
            for index, item in value.items():
                design[key][index] = item
        elif isinstance(value, dict):
            design.setdefault(key, {}).update(value)
        else:
            design[key] = value
    return design


def designs():
    demos = {}
    for name in DEMOS:
        with open(os.path.join(ROOT, "examples", name + ".json")) as file:
            demos[name] = json.load(file)
        yield name, demos[name], True
    for name, change in SPARK_GAPS.items():
        yield name, merged({**demos["quiet-lantern"], "name": name}, change), False
    for kind, feeds in FEEDS.items():
        for feed in feeds:
            made = subprocess.run([CALC, "new", kind, *(["--feed", feed, "--mains", "120", "--frequency", "60"]
                                                        if feed else [])], capture_output=True, text=True, check=True)
            yield f"new {kind}, {feed}", json.loads(made.stdout), False
    for name, (base, change) in OTHERS.items():
        yield name, merged({**demos[base], "name": name}, change), False


def commands(kind, tried):
    yield ["analyse"]
    yield ["power"] if tried else ["power", "--no-trials"]
    yield ["check"]
    if kind in INTERRUPTED:
        yield ["interrupter", "--duration", "40ms"]
    for way in WAYS[kind]:
        yield ["simulate", *way.split()]
        yield ["netlist", *way.split()]


def print_all(design, tried):
    out = {}
    with tempfile.TemporaryDirectory() as folder:
        path, csv = os.path.join(folder, "design.json"), os.path.join(folder, "waves.csv")
        with open(path, "w") as file:
            json.dump(design, file)
        for command in commands(design["kind"], tried):
            simulated = ["--csv", csv] if command[0] == "simulate" else []
            run = subprocess.run([CALC, command[0], path, *command[1:], *simulated], capture_output=True, text=True)
            text = run.stdout if run.returncode == 0 else run.stderr.replace(path, "design")
            name = " ".join(command)
            out[name] = json.loads(text) if text.startswith("{") else text.splitlines()
            if simulated and run.returncode == 0:
                with open(csv) as file:
                    out[name + ", head"] = file.readline().strip()
    return out


def print_designs(every=1):
    """Of all designs, or of every second or third."""
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        work = {name: pool.submit(print_all, design, tried) for name, design, tried in [*designs()][every // 2 :: every]}
        return {name: printed.result() for name, printed in work.items()}


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


def rounded(printed):
    """Nine digits: more only takes room."""
    if isinstance(printed, float):
        return float(f"{printed:.9g}")
    if isinstance(printed, list):
        return [rounded(item) for item in printed]
    if isinstance(printed, dict):
        return {key: rounded(value) for key, value in printed.items()}
    return printed


def frozen_designs():
    with gzip.open(FROZEN, "rt") as file:
        return json.load(file)


class Golden(unittest.TestCase):
    def test_what_is_printed_for_all_designs_is_what_was_frozen(self):
        frozen = frozen_designs()
        self.assertGreaterEqual(len(frozen), 36)
        every = 3 if trials.few() else 1
        now = print_designs(every)
        self.assertGreaterEqual(len(now), 36 // every)
        found = list(differences(now, {name: frozen[name] for name in now} if every > 1 else frozen))
        self.assertEqual(found, [], "\n".join(found[:10]))


if __name__ == "__main__":
    if sys.argv[1:] == ["--write"]:
        with gzip.GzipFile(FROZEN, "wb", mtime=0) as file:
            file.write(json.dumps(rounded(print_designs()), sort_keys=True).encode())
    elif sys.argv[1:] == ["--more"]:
        for line in differences(print_designs(), frozen_designs()):
            if not line.endswith(": only in one"):
                print(line[:300])
    else:
        unittest.main()
