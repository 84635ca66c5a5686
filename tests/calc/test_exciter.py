"""The exciter from the command line: a solved reference circuit, the SPICE program on exported decks, partial files."""
import json
import os
import random
import subprocess
import tempfile
import unittest

import spice

CALC = os.environ["HIGH_ARC_CALC"]

# A solved circuit of the same equations: NPN, 12 V, six turns, 4.3 MHz, Q of 50. Its figures come from an
# independent integration (LSODA) of the equations in docs/methods/exciter.md.
REFERENCE = {
    "format": "high-arc-design", "version": 1, "kind": "exciter", "name": "Reference",
    "exciter": {
        "supply_voltage_v": 12.0, "bias_resistance_ohm": 27e3, "transistor_type": "npn",
        "transistor_saturation_current_a": 5e-14, "transistor_forward_gain": 100.0, "transistor_reverse_gain": 5.0,
        "transistor_base_resistance_ohm": 10.0, "transistor_emitter_junction_f": 60e-12,
        "transistor_collector_junction_f": 25e-12, "transistor_transit_time_s": 0.8e-9,
        "transistor_reverse_transit_time_s": 30e-9, "clamp": "led", "clamp_saturation_current_a": 1e-18,
        "clamp_emission": 2.0, "clamp_capacitance_f": 20e-12, "clamp_transit_time_s": 5e-9, "base_stray_f": 2e-12,
        "collector_stray_f": 40e-12, "primary_direction": "forward"},
    "equivalent": {"primary_inductance_h": 2.2e-6, "primary_resistance_ohm": 0.05, "coupling": 0.25,
                   "secondary_inductance_h": 0.7e-3, "secondary_capacitance_f": 1.96e-12,
                   "secondary_resistance_ohm": 378.0}}
SOLVED = {"frequency_hz": 4358770.0, "collector_average_a": 0.25122, "collector_peak_a": 0.594291,
          "top_peak_v": 2121.93, "foot_peak_a": 0.115013, "collector_peak_v": 59.8287, "base_least_v": -2.01953,
          "supply_w": 3.01989, "secondary_w": 2.43813, "bias_w": 0.00524143, "clamp_w": 0.0316165,
          "dissipation_w": 0.539472, "start_s": 1.47009e-6}


def run(design, *arguments):
    with tempfile.TemporaryDirectory() as folder:
        path = os.path.join(folder, "design.json")
        with open(path, "w") as file:
            json.dump(design, file)
        return subprocess.run([CALC, arguments[0], path, *arguments[1:]], capture_output=True, text=True)


def results(design, *arguments):
    out = run(design, *(arguments or ("simulate", "--oscillation")))
    if out.returncode:
        raise AssertionError(out.stderr)
    return json.loads(out.stdout)["results"]


def changed(**exciter):
    design = json.loads(json.dumps(REFERENCE))
    design["exciter"].update({k: v for k, v in exciter.items() if k in design["exciter"]})
    design["equivalent"].update({k: v for k, v in exciter.items() if k in design["equivalent"]})
    return design


def in_spice(design):
    """What the exported deck measures in the SPICE program."""
    deck = run(design, "netlist", "--oscillation")
    assert deck.returncode == 0, deck.stderr
    return spice.measurements(deck.stdout)


class Exciter(unittest.TestCase):
    def near(self, got, want, tolerance, what):
        self.assertLess(abs(got / want - 1), tolerance, f"{what}: {got} against {want}")

    def test_the_solved_circuit_is_met(self):
        r = results(REFERENCE)
        self.assertTrue(r["oscillates"] and r["steady"])
        # Both solve the same equations: what differs is step control, a few tenths of a per cent.
        tolerances = {"frequency_hz": 0.001, "clamp_w": 0.01, "start_s": 0.02}
        for key, want in SOLVED.items():
            self.near(r[key], want, tolerances.get(key, 0.005), key)
        lost = r["secondary_w"] + r["primary_w"] + r["bias_w"] + r["clamp_w"] + r["dissipation_w"]
        self.near(lost, r["supply_w"], 1e-3, "what goes in comes out")

    def test_with_the_primary_the_wrong_way_round_it_only_conducts(self):
        r = results(changed(primary_direction="reversed"))
        self.assertFalse(r["oscillates"])
        for key, want in (("top_peak_v", 0.714221), ("collector_average_a", 0.0417992), ("dissipation_w", 0.501503)):
            self.near(r[key], want, 0.005, key)

    def test_exported_decks_agree_with_the_spice_program(self):
        random.seed(20)
        judged = 0
        for i in range(11):
            design = changed(supply_voltage_v=random.uniform(6, 12), bias_resistance_ohm=random.uniform(22e3, 47e3),
                             transistor_forward_gain=random.uniform(70, 110), coupling=random.uniform(0.22, 0.27),
                             secondary_inductance_h=random.uniform(0.6e-3, 0.75e-3),
                             secondary_resistance_ohm=random.uniform(600, 900),
                             primary_inductance_h=random.uniform(2.0e-6, 2.6e-6))
            if i % 3 == 2:
                design["exciter"]["transistor_type"] = "pnp"
            ours = results(design, "simulate", "--oscillation", "--both-states")
            if not ours["steady"] or "other_top_v" in ours:
                continue  # it swells and fades, or has two states: solvers then settle on different ones
            theirs = in_spice(design)
            judged += 1
            with self.subTest(design["exciter"]):
                # Agreed between solvers of the same equations; the widest is the heat, a difference of large numbers.
                for key, tolerance in (("frequency_hz", 0.01), ("collector_average_a", 0.05),
                                       ("collector_peak_a", 0.05), ("top_peak_v", 0.05), ("dissipation_w", 0.06)):
                    self.near(ours[key], theirs[key], tolerance, key)
        self.assertGreaterEqual(judged, 10)

    def test_a_mode_of_another_kind_is_refused_by_name(self):
        out = run(REFERENCE, "simulate", "--shot")
        self.assertEqual(out.returncode, 2)
        self.assertIn("“exciter”, which has no --shot; it has --oscillation", out.stderr)

    def test_a_file_may_hold_a_secondary_alone(self):
        design = {"format": "high-arc-design", "version": 1, "secondary": {
            "form_diameter_m": 0.11, "turns": 1000, "winding_length_m": 0.47, "wire_bare_diameter_m": 0.0004,
            "wire_overall_diameter_m": 0.00044, "base_height_m": 0.4}}
        out = json.loads(run(design, "analyse").stdout)
        self.assertGreater(out["results"]["mode_1_hz"], 1e5)
        self.assertNotIn("coupling", out["results"])
        self.assertNotIn("tank_hz", out["bands"])
        said = {f["id"]: f for f in out["findings"]}
        self.assertIn("Inner radius", said["not-given primary"]["text"])
        self.assertEqual(said["not-given tank"]["stage"], "tank")
        self.assertEqual(json.loads(run(design, "check").stdout)["primary"], {"cone_angle_deg": 0.0,
                         "lead_inductance_h": 0.0, "shape": "flat"})
        self.assertIn("not given", run(design, "simulate", "--charging").stderr)
        self.assertEqual(run(design, "simulate", "--shot").returncode, 2)

    def test_an_empty_design_says_what_it_needs(self):
        out = json.loads(run({"format": "high-arc-design", "version": 1}, "analyse").stdout)
        self.assertEqual(out["results"], {})
        self.assertEqual(out["findings"][0]["id"], "not-given secondary")

    def test_measured_values_stand_in_for_computed_ones(self):
        with open(os.path.join(os.path.dirname(__file__), "..", "..", "examples", "quiet-lantern.json")) as file:
            design = json.load(file)
        computed = results(design, "simulate", "--shot", "--lumped")
        r = results(design, "analyse")
        design["equivalent"] = {"primary_inductance_h": r["primary_inductance_h"], "coupling": r["coupling"],
                                "secondary_inductance_h": r["effective_inductance_h"],
                                "secondary_capacitance_f": r["effective_capacitance_f"]}
        same = results(design, "simulate", "--shot")
        for key in ("top_peak_v", "primary_peak_a"):
            self.near(same[key], computed[key], 1e-6, key)
        design["equivalent"]["coupling"] = 2 * r["coupling"]
        tighter = results(design, "simulate", "--shot")
        self.near(tighter["first_notch_s"], computed["first_notch_s"] / 2, 0.2, "twice the coupling, half the time")


if __name__ == "__main__":
    unittest.main()
