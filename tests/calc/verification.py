"""Rows of docs/methods/verification.md for what is simulated: solved circuits as designs, and the SPICE program on an
exported deck. The tests beside this hold the same comparisons to their tolerances. Printed by
scripts/make-verification-table."""
import functools
import json
import os
import subprocess

import spice
import test_bridge
import test_exciter
import test_tube

ROOT = os.path.join(os.path.dirname(__file__), "..", "..")
PREFIXES = ((1e6, "M"), (1e3, "k"), (1, ""), (1e-3, "m"), (1e-6, "u"), (1e-9, "n"))


@functools.cache
def figures(kind):
    """What the results of a kind of coil are called, by object and key."""
    text = subprocess.run([test_exciter.CALC, "figures", kind], capture_output=True, text=True, check=True).stdout
    return {(f.get("object", ""), f["key"]): f for f in json.loads(text)["figures"]}


def row(what, kind, place, ours, theirs, source):
    figure = figures(kind)[place]
    unit = figure.get("unit", "")
    scale, prefix = next((p for p in PREFIXES if abs(theirs) >= p[0]), (1, "")) if unit else (1, "")
    print(f"| {what}: {figure['title']} | {ours / scale:.4g} {prefix}{unit} | {theirs / scale:.4g} {prefix}{unit} | "
          f"{100 * (ours / theirs - 1):+.1f} % | {source} |")


def bridges():
    for case in test_bridge.solved().values():
        ours = test_bridge.results(test_bridge.design_of(case), "--lumped")
        for key, name in (("frequency_hz", "f_lock"), ("primary_peak_a", "ip_peak_on"), ("top_peak_v", "vtop_peak"),
                          ("bus_energy_j", "E_bus_off"), ("device_loss_j", "E_switch_total")):
            if key in ours and case["results"].get(name):
                row(case["title"], "bridge", ("burst", key), ours[key], case["results"][name], "exact solution of the same circuit")


def tubes():
    for name, case in test_tube.solved().items():
        # Averages of one that stops and starts hold a part of a burst; one that does not swing has no figures.
        if not case["oscillates"] or name == "q1":
            continue
        p = case["parameters"]
        ours = test_tube.results(test_tube.design_of(p), "--oscillation" if p["supply"] == "dc" else "--mains")
        for key in ("frequency_hz", "plate_input_w", "plate_dissipation_w", "grid_bias_v", "top_peak_v"):
            theirs = case["results"].get(test_tube.NAMES[key][0])
            if theirs:
                row(case["title"], "tube", ("run", key), ours[key], theirs, "independent solution of the same circuit")


def exciter():
    ours = test_exciter.results(test_exciter.REFERENCE)
    for key, theirs in test_exciter.SOLVED.items():
        row("exciter, six turns at 12 V", "exciter", ("oscillation", key), ours[key], theirs, "LSODA on the same equations")


def charging():
    demo = os.path.join(ROOT, "examples", "quiet-lantern.json")
    arguments = ("--charging", "--cycles", "10")
    calc = lambda command: subprocess.run([test_exciter.CALC, command, demo, *arguments], capture_output=True,
                                          text=True, check=True).stdout
    ours, theirs = json.loads(calc("simulate"))["results"], spice.measurements(calc("netlist"))
    for key in ("tank_peak_v", "input_power_w", "line_current_a", "power_factor"):
        row("ten cycles of charging, the spark gap's demo", "spark-gap", ("charging", key), ours[key], theirs[key],
            "SPICE program, exported deck")


if __name__ == "__main__":
    bridges()
    tubes()
    exciter()
    charging()
