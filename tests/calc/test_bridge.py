"""Bridges from the command line: a solved circuit as a design, the SPICE program on exported decks, interrupters."""
import json
import os
import random
import unittest

import spice
from test_exciter import run

ROOT = os.path.join(os.path.dirname(__file__), "..", "..")


def example(name):
    with open(os.path.join(ROOT, "examples", name)) as file:
        return json.load(file)


def solved():
    with open(os.path.join(ROOT, "tests", "data", "solved-bridges.json")) as file:
        return json.load(file)["cases"]


def design_of(case):
    """A solved circuit with the keys of docs/file-format.md."""
    p = case["parameters"]
    dual = p["fb"] == "ip"
    bridge = {
        "legs": "full" if p["bridge"] == "full" else "half-split", "bus_voltage_v": p["V0"], "reservoir_f": p["Cres"],
        "switch_type": p["dev"], "switch_output_f": p["Coss"], "switch_diode_knee_v": p["Vd0"],
        "switch_diode_slope_ohm": p["Rd"], "switch_leak_s": p["Goff"], "switch_fall_s": p["tf"],
        "switch_rise_s": p["tr"], "switch_recovery_s": p["trr"], "squarer_delay_s": p["td"], "logic_delay_s": 0,
        "driver_delay_s": 0, "gate_delay_s": 0, "lead_s": p["tlead"], "dead_time_s": p["tdead"],
        "kick_s": p["t_kick"],
        "feedback": {"is": "foot-transformer", "ip": "primary-transformer", "fixed": "fixed"}[p["fb"]]}
    for key, name in (("Csplit", "split_capacitance_f"), ("Ron", "switch_on_ohm"), ("Vce0", "switch_knee_v"),
                      ("Rce", "switch_slope_ohm"), ("f", "fixed_frequency_hz"), ("Ilim", "current_limit_a"),
                      ("toc", "limit_delay_s")):
        if key in p:
            bridge[name] = p[key]
    equivalent = {"primary_inductance_h": p["Lp"], "primary_resistance_ohm": p["Rp"], "coupling": p["k"],
                  "secondary_inductance_h": p["Ls"], "secondary_capacitance_f": p["Cs"],
                  "secondary_resistance_ohm": p["Rs"]}
    for key, name in (("Vbreak", "breakout_voltage_v"), ("Cst", "streamer_capacitance_f"),
                      ("Rst", "streamer_resistance_ohm")):
        if key in p:
            equivalent[name] = p[key]
    design = {"format": "high-arc-design", "version": 1, "name": case["title"],
              "kind": "dual-resonant" if dual else "bridge", "equivalent": equivalent, "bridge": bridge,
              "interrupter": {"on_time_s": p["Ton"], "rate_hz": p["bps"]}}
    if dual:
        design["tank"] = {"capacitance_f": p["Cx"]}
    return design


def results(design, *options):
    out = run(design, "simulate", "--burst", *options)
    if out.returncode:
        raise AssertionError(out.stderr)
    return json.loads(out.stdout)["results"]


def in_spice(design):
    deck = run(design, "netlist", "--burst")
    assert deck.returncode == 0, deck.stderr
    return spice.measurements(deck.stdout)


def random_design(rng):
    """A bridge of an ordinary size, of either kind, with everything varied."""
    cases = solved()
    design = design_of(cases[rng.choice(["oA", "oA2", "oB_self", "oC", "oC2_low"])])
    e, b = design["equivalent"], design["bridge"]

    def vary(group, key, by):
        group[key] *= rng.uniform(1 / by, by)

    for key in ("secondary_inductance_h", "secondary_capacitance_f", "secondary_resistance_ohm"):
        vary(e, key, 1.5)
    e["coupling"] = rng.uniform(0.1, 0.25)
    vary(e, "primary_inductance_h", 1.3)
    vary(b, "bus_voltage_v", 1.5)
    vary(b, "squarer_delay_s", 1.4)
    vary(b, "dead_time_s", 1.3)
    vary(b, "switch_output_f", 1.5)
    if design["kind"] == "dual-resonant":
        design["tank"]["capacitance_f"] = (e["secondary_inductance_h"] * e["secondary_capacitance_f"] /
                                           e["primary_inductance_h"] * rng.uniform(1.06, 1.25))
    design["interrupter"]["on_time_s"] = rng.uniform(5e-5, 9e-5)
    return design


class Bridge(unittest.TestCase):
    def near(self, got, want, tolerance, what):
        self.assertLess(abs(got / want - 1), tolerance, f"{what}: {got} against {want}")

    def test_solved_circuits_are_designs(self):
        names = {"frequency_hz": "f_lock", "primary_peak_a": "ip_peak_on", "top_peak_v": "vtop_peak",
                 "bus_energy_j": "E_bus_off", "bus_net_energy_j": "E_bus_net", "device_loss_j": "E_switch_total",
                 "bus_droop_v": "droop", "tank_peak_v": "vx_peak", "tank_rms_a": "ip_rms_burst", "trip_s": "t_trip"}
        for name, case in solved().items():
            ours = results(design_of(case), "--lumped")
            with self.subTest(name):
                for key, theirs in names.items():
                    if key in ours and theirs in case["results"]:
                        self.near(ours[key], case["results"][theirs], 0.01, key)

    def agree(self, design):
        ours, theirs = results(design), in_spice(design)
        for key, tolerance in (("frequency_hz", 0.005), ("primary_peak_a", 0.02), ("top_peak_v", 0.02),
                               ("bus_energy_j", 0.03)):
            self.near(ours[key], theirs[key], tolerance, key)

    def test_the_demos_decks_agree_in_the_spice_program(self):
        for name in ("copper-heron.json", "tin-orchard.json"):
            with self.subTest(name):
                self.agree(example(name))

    def test_thirty_random_decks_agree_in_the_spice_program(self):
        rng = random.Random(30)
        for number in range(30):
            design = random_design(rng)
            with self.subTest(number=number):
                self.agree(design)

    def mains_agree(self, design):
        ours = json.loads(run(design, "simulate", "--mains").stdout)["results"]
        deck = run(design, "netlist", "--mains")
        self.assertEqual(deck.returncode, 0, deck.stderr)
        theirs = spice.measurements(deck.stdout)
        inrush = max(ours["inrush_peak_a"], ours.get("relay_surge_a", 0))
        self.near(inrush, theirs["inrush_peak_a"], 0.03, "inrush")
        # The ripple is 0.1 % of the bus: its last tenth is where bursts fall on the wave.
        for key, tolerance in (("bus_v", 0.005), ("bus_least_v", 0.01), ("line_current_a", 0.03),
                               ("input_power_w", 0.03), ("ripple_v", 0.08)):
            self.near(ours[key], theirs[key], tolerance, key)

    def test_the_demos_mains_paths_agree_in_the_spice_program(self):
        for name in ("copper-heron.json", "tin-orchard.json"):
            with self.subTest(name):
                self.mains_agree(example(name))

    def test_random_mains_paths_agree_in_the_spice_program(self):
        rng = random.Random(12)
        for number in range(12):
            design = example("copper-heron.json")
            design["interrupter"]["rate_hz"] = rng.choice([60.0, 120.0, 240.0, 400.0])
            farad = 10 ** rng.uniform(-3.7, -2.5)

            def block(kind, **values):
                return {"kind": kind, **values}

            feed = [block("breaker", rated_current_a=16)]
            if rng.random() < 0.5:
                feed.append(block("variac", setting=rng.uniform(0.3, 1.2)))
            if rng.random() < 0.5:
                feed.append(block("line-filter", leakage_h=10 ** rng.uniform(-3.5, -2)))
            limiter = rng.choice(["none", "relay", "resistor", "thermistor"])
            if limiter != "none":
                feed.append(block("inrush-limiter", resistance_ohm=rng.uniform(5, 40),
                                  relay_after_s=rng.uniform(0.1, 1) if limiter == "relay" else 0,
                                  hot_ohm=rng.uniform(0.2, 0.6) if limiter == "thermistor" else 0))
            if rng.random() < 0.5:
                feed += [block("bridge", inverse_voltage_v=1000, average_current_a=20),
                         block("electrolytics", unit_capacitance_f=farad, unit_esr_ohm=rng.uniform(0.02, 0.3))]
            else:
                feed.append(block("full-wave-doubler", capacitance_f=2 * farad, bleed_resistance_ohm=33e3,
                                  inverse_voltage_v=1600, average_current_a=20))
            design["feed"] = feed + [block("fuse", rated_current_a=16)]
            with self.subTest(number=number, limiter=limiter):
                self.mains_agree(design)

    def test_an_interrupter_prints_pulses_limits_and_parts(self):
        design = example("copper-heron.json")
        design["interrupter"].update({"on_time_s": 4e-4, "rate_hz": 600})
        out = json.loads(run(design, "interrupter", "--duration", "50ms").stdout)
        hit = {h["limit"]: h for h in out["limits_hit"]}
        self.assertEqual(set(hit), {"rate", "on-time", "duty"})
        self.assertIn("is held at", hit["on-time"]["text"])
        self.assertEqual(len(out["pulses"]), 25)
        for pulse in out["pulses"]:
            self.assertLessEqual(pulse["end_s"] - pulse["start_s"], 3e-4)
        self.assertGreater(out["results"]["average_power_w"], 0)
        self.assertEqual(len(out["timers"]), 2)
        self.assertTrue(out["timers"][0]["parts"])

    def test_what_cannot_be_is_said_in_words(self):
        design = design_of(solved()["oB_res"])
        for group, key, value, words in (("bridge", "dead_time_s", 3e-6, "half a period"),
                                         ("bridge", "reservoir_f", 0, "reservoir_f"),
                                         ("interrupter", "on_time_s", -1, "on_time_s"),
                                         ("bridge", "legs", "three", "half-split"),
                                         ("bridge", "limit_action", 5, "limit_action")):
            changed = json.loads(json.dumps(design))
            changed[group][key] = value
            out = run(changed, "simulate", "--burst")
            with self.subTest(key):
                self.assertEqual(out.returncode, 2)
                self.assertIn(words, out.stderr)
        spark = example("quiet-lantern.json")
        out = run(spark, "interrupter")
        self.assertEqual(out.returncode, 2)
        self.assertIn("no interrupter", out.stderr)


if __name__ == "__main__":
    unittest.main()
