"""The command-line program: results by key, exit codes, messages, round trips."""
import json
import os
import re
import shlex
import socket
import subprocess
import tempfile
import unittest

import spice

CALC = os.environ["HIGH_ARC_CALC"]
ROOT = os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "..")
DEMO = os.path.join(ROOT, "examples", "quiet-lantern.json")


def calc(*arguments):
    return subprocess.run([CALC, *arguments], capture_output=True, text=True)


class Calc(unittest.TestCase):
    def broken(self, text):
        with tempfile.NamedTemporaryFile("w", suffix=".json", delete=False) as file:
            file.write(text)
        self.addCleanup(os.unlink, file.name)
        return calc("analyse", file.name)

    def test_every_promised_result_is_printed(self):
        run = calc("analyse", DEMO)
        self.assertEqual(run.returncode, 0, run.stderr)
        results = json.loads(run.stdout)["results"]
        for key in ("secondary_inductance_h mode_1_hz mode_2_hz effective_inductance_h effective_capacitance_f "
                    "topload_isolated_capacitance_f topload_in_place_capacitance_f primary_inductance_h "
                    "mutual_inductance_h coupling tank_hz tuned_tap_turns").split():
            self.assertGreater(results[key], 0, key)

    def test_results_follow_physics(self):
        results = json.loads(calc("analyse", DEMO).stdout)["results"]
        k = results["mutual_inductance_h"] / (results["primary_inductance_h"] * results["secondary_inductance_h"]) ** 0.5
        self.assertAlmostEqual(k, results["coupling"], 9)
        # A grounded body near by raises what a topload holds; a current that falls toward the top stores less than an
        # even one.
        self.assertGreater(results["topload_in_place_capacitance_f"], results["topload_isolated_capacitance_f"])
        self.assertLess(results["effective_inductance_h"], 1.25 * results["secondary_inductance_h"])
        self.assertGreater(results["mode_2_hz"], 2 * results["mode_1_hz"])  # 3 for a bare quarter wave, more with a topload

    def test_the_reference_coils_are_met(self):
        with open(os.path.join(ROOT, "tests", "data", "reference-coils.json")) as file:
            cases = json.load(file)
        for case in cases:
            with tempfile.NamedTemporaryFile("w", suffix=".json") as file:
                json.dump(case["design"], file)
                file.flush()
                results = json.loads(calc("analyse", file.name).stdout)["results"]
            for key, want in case["expect"].items():
                self.assertAlmostEqual(results[key] / want, 1, delta=0.01, msg=f"{case['design']['name']} {key}")

    def test_findings_name_value_limit_and_remedy(self):
        findings = json.loads(calc("analyse", DEMO).stdout)["findings"]
        self.assertTrue(findings)
        for finding in findings:
            self.assertIn(finding["severity"], ("stop", "warning", "note"))
            for key in ("id", "stage", "title", "text", "remedy", "value", "limit"):
                self.assertIn(key, finding)

    def test_a_bad_file_exits_2_with_one_message(self):
        for text, words in (("", "empty"), ("{", "cut off")):
            run = self.broken(text)
            self.assertEqual(run.returncode, 2)
            self.assertEqual(run.stdout, "")
            self.assertIn(words, run.stderr)
            self.assertEqual(run.stderr.count("\n"), 1)
        run = calc("analyse", "/no/such/file.json")
        self.assertEqual(run.returncode, 2)
        self.assertIn("cannot be opened", run.stderr)

    def test_a_wrong_type_is_named_with_path_and_line(self):
        with open(DEMO) as file:
            text = file.read().replace('"turns": 1030.0', '"turns": "many"')
        run = self.broken(text)
        self.assertEqual(run.returncode, 2)
        self.assertRegex(run.stderr, r"secondary\.turns \(line \d+\): expected a number, found \"many\"")

    def test_check_prints_the_design_unchanged(self):
        with open(DEMO) as file:
            self.assertEqual(calc("check", DEMO).stdout, file.read())

    def test_runs_prints_csv(self):
        lines = calc("runs", DEMO).stdout.splitlines()
        self.assertTrue(lines[0].startswith("when,id,tap_turns,"))
        self.assertEqual(len(lines), 9)

    def test_every_result_is_named_in_the_table_of_figures(self):
        for kind, demo, objects in (("spark-gap", "quiet-lantern", ("shot", "charging")),
                                    ("exciter", "paper-moth", ("oscillation",)), ("bridge", "copper-heron", ("burst",)),
                                    ("dual-resonant", "tin-orchard", ("burst",)), ("tube", "glass-willow", ("run",)),
                                    ("flame", "candle-reed", ("run",))):
            table = json.loads(calc("figures", kind).stdout)
            self.assertEqual(table["kind"], kind)
            named = {}
            for figure in table["figures"]:
                self.assertTrue(figure["title"] and figure["formula"], figure)
                named.setdefault(figure.get("object", ""), set()).update({figure["key"], figure.get("up_to")})
            power = json.loads(calc("power", "--no-trials", os.path.join(ROOT, "examples", demo + ".json")).stdout)
            at_rest = json.loads(calc("analyse", os.path.join(ROOT, "examples", demo + ".json")).stdout)["results"]
            self.assertLessEqual({k for k, value in at_rest.items() if isinstance(value, float)}, named["results"], kind)
            for name in objects:
                numbers = {k for k, value in power[name].items() if isinstance(value, float)}
                numbers -= {"from_s", "to_s"}  # the stretch that was counted
                self.assertTrue(numbers, name)
                self.assertLessEqual(numbers, named[name], f"{kind}, {name}")

    def test_help_lists_every_command_with_an_example(self):
        text = calc("--help").stdout
        for command in ("analyse", "runs", "check", "power", "bank", "simulate", "netlist"):
            self.assertIn(f"example: high-arc-calc {command}", text)

    def test_every_example_of_the_help_runs(self):
        examples = re.findall(r"example: high-arc-calc (.+)", calc("--help").stdout)
        self.assertGreaterEqual(len(examples), 8)
        for example in examples:
            with self.subTest(example):
                run = subprocess.run([CALC, *shlex.split(example.split(" > ")[0])], capture_output=True, text=True,
                                     cwd=ROOT)
                self.assertEqual(run.returncode, 0, run.stderr)
                self.assertGreater(len(run.stdout), 100)

    def spice(self, *arguments):
        """The measurements of an exported deck, run by the SPICE program in batch mode."""
        deck = calc("netlist", *arguments)
        self.assertEqual(deck.returncode, 0, deck.stderr)
        return spice.measurements(deck.stdout)

    def agrees(self, ours, spice, tolerances):
        for key, tolerance in tolerances.items():
            self.assertLess(abs(ours[key] / spice[key] - 1), tolerance, f"{key}: {ours[key]} against {spice[key]}")

    def test_the_shot_agrees_with_spice_within_one_per_cent(self):
        for extra in (["--tank-voltage", "10k", "--ideal"], [], ["--quench", "2"]):
            ours = json.loads(calc("simulate", DEMO, "--shot", *extra).stdout)["results"]
            self.agrees(ours, self.spice(DEMO, "--shot", *extra),
                        {"top_peak_v": 0.01, "primary_peak_a": 0.01, "first_notch_s": 0.01, "tank_energy_j": 0.01})

    def test_charging_agrees_with_spice(self):
        """Over few cycles: later every break depends on all before it, and rounding decides."""
        ours = json.loads(calc("simulate", DEMO, "--charging", "--cycles", "10").stdout)["results"]
        self.agrees(ours, self.spice(DEMO, "--charging", "--cycles", "10"),
                    {"tank_peak_v": 0.01, "break_rate_hz": 0.03, "input_power_w": 0.01, "line_current_a": 0.01,
                     "power_factor": 0.01})

    def design_with(self, feed, **gap):
        """The demo with another feed and gap, as a file."""
        with open(DEMO) as file:
            design = json.load(file)
        design["feed"] = feed
        design["gap"].update(gap)
        design["gap"] = {key: value for key, value in design["gap"].items() if value is not None}
        with tempfile.NamedTemporaryFile("w", suffix=".json", delete=False) as file:
            json.dump(design, file)
        self.addCleanup(os.unlink, file.name)
        return file.name

    def test_every_kind_of_source_and_gap_agrees_with_spice(self):
        oven = {"kind": "oven-transformers", "in_series": 1}
        rotor = dict(rotary_electrodes=2, rotor_speed_hz=50, rotor_radius_m=0.15, rotor_clearance_m=0.0015,
                     spacing_m=None)
        cases = {
            "full-wave doubler": ([oven, {"kind": "full-wave-doubler"}], dict(firing_voltage_v=4000)),
            "half wave, filtered": ([oven, {"kind": "diode-string"}, {"kind": "filter-choke"},
                                     {"kind": "reservoir"}], dict(firing_voltage_v=2000)),
            "resonant charging": ([oven, {"kind": "bridge"}, {"kind": "reservoir"}, {"kind": "charging-choke"}],
                                  dict(firing_voltage_v=2800)),
            "saturated cores": ([{"kind": "variac", "setting": 1.1}, dict(oven, in_series=2), {"kind": "level-shifter"}],
                                dict(firing_voltage_v=9000)),
            "flyback driver": ([{"kind": "flyback-driver"}], dict(firing_voltage_v=9000)),
            "half the variac": ([{"kind": "power-factor-capacitor"}, {"kind": "variac", "setting": 0.5},
                                 {"kind": "transformer"}], dict(firing_voltage_v=5000)),
            "free rotor": ([{"kind": "transformer"}], rotor),
            "locked rotor with a static gap": ([{"kind": "transformer"}],
                                               dict(rotor, rotor_phase_deg=80, spacing_m=0.0004, gaps_in_series=1)),
        }
        for name, (feed, gap) in cases.items():
            with self.subTest(name):
                path = self.design_with(feed, **gap)
                ours = json.loads(calc("simulate", path, "--charging", "--cycles", "10").stdout)["results"]
                self.assertGreater(ours["break_rate_hz"], 0)
                self.agrees(ours, self.spice(path, "--charging", "--cycles", "10"),
                            {"tank_peak_v": 0.01, "break_rate_hz": 0.03, "input_power_w": 0.03, "line_current_a": 0.03})

    def test_a_dimmer_is_simulated_and_its_deck_is_refused_with_a_reason(self):
        path = self.design_with([{"kind": "dimmer"}, {"kind": "ballast-capacitor"}, {"kind": "ignition-coils"}],
                                firing_voltage_v=1200)
        self.assertEqual(calc("simulate", path, "--charging").returncode, 0)
        refused = calc("netlist", path, "--charging")
        self.assertEqual(refused.returncode, 2)
        self.assertIn("dimmer", refused.stderr)

    def test_the_power_command_judges_every_part(self):
        run = calc("power", DEMO)
        self.assertEqual(run.returncode, 0, run.stderr)
        power = json.loads(run.stdout)
        self.assertTrue(power["units"][0]["within_ratings"])
        self.assertGreater(power["units"][0]["rms_a"], 0)
        self.assertEqual(len(power["quench"]), 3)
        self.assertGreater(power["changes"][0]["arc_ratio"], 1)
        self.assertEqual(json.loads(calc("power", DEMO, "--no-trials").stdout)["changes"], [])
        self.assertIn("rate-differs", [finding["id"] for finding in power["findings"]])
        self.assertEqual(power["shot"]["top_peak_v"],
                         json.loads(calc("simulate", DEMO, "--shot").stdout)["results"]["top_peak_v"])

    def test_joints_diodes_and_safety_gaps_are_printed(self):
        path = self.design_with([{"kind": "transformer"}, {"kind": "safety-gap", "firing_v": 7000}, {"kind": "bridge"}])
        out = json.loads(calc("simulate", path, "--charging").stdout)
        self.assertEqual([joint["title"] for joint in out["joints"]][-1], "Tank")
        self.assertEqual(len(out["diodes"]), 4)
        self.assertGreater(out["safety_gaps"][0]["firings"], 0)

    def test_silent_charging_agrees_with_spice_closely(self):
        """Without breaks nothing depends on the instant of firing: the waveform itself is compared."""
        with open(DEMO) as file:
            design = json.load(file)
        design["gap"]["firing_voltage_v"] = 1e6
        for feed in (design["feed"], [{"kind": "oven-transformers"}, {"kind": "bridge"}, {"kind": "protection-filter"}]):
            design["feed"] = feed
            with tempfile.NamedTemporaryFile("w", suffix=".json", delete=False) as file:
                json.dump(design, file)
            self.addCleanup(os.unlink, file.name)
            ours = json.loads(calc("simulate", file.name, "--charging", "--cycles", "10").stdout)["results"]
            self.agrees(ours, self.spice(file.name, "--charging", "--cycles", "10"), {"tank_peak_v": 0.01})

    def test_an_ideal_shot_keeps_its_energy(self):
        results = json.loads(calc("simulate", DEMO, "--shot", "--tank-voltage", "10k", "--ideal").stdout)["results"]
        analysis = json.loads(calc("analyse", DEMO).stdout)["results"]
        limit = 1e4 * (analysis["tank_capacitance_f"] / analysis["effective_capacitance_f"]) ** 0.5
        self.assertLess(results["top_peak_v"], 1.001 * limit)
        self.assertGreater(results["top_peak_v"], 0.8 * limit)
        self.assertAlmostEqual(results["tank_energy_j"], analysis["tank_capacitance_f"] * 1e8 / 2, 9)

    def test_waveforms_are_written_as_csv(self):
        with tempfile.TemporaryDirectory() as folder:
            path = os.path.join(folder, "shot.csv")
            calc("simulate", DEMO, "--shot", "--csv", path)
            with open(path) as file:
                lines = file.read().splitlines()
            self.assertEqual(lines[0], "time_s,tank_v,primary_a,top_v,base_a,primary_j,secondary_j")
            self.assertEqual(len(lines), 25002)

    def test_banks_are_found_for_the_least_shelf(self):
        shelf = ('{"format":"high-arc-shelf","version":1,"capacitors":'
                 '[{"name":"A","capacitance_f":4e-10,"voltage_v":30000,"count":11}]}')
        with tempfile.NamedTemporaryFile("w", suffix=".json", delete=False) as file:
            file.write(shelf)
        self.addCleanup(os.unlink, file.name)
        # Ten 400 pF 30 kV units make 1 nF at 60 kV, 2 or 4 nF at 30 kV; nine 3.6, eleven 4.4 nF (common practice).
        for wanted, voltage, units in (("1n", "60k", 10), ("2n", "30k", 5), ("3.6n", "30k", 9), ("4n", "30k", 10),
                                       ("4n4", "30k", 11)):
            run = calc("bank", "--shelf", file.name, "--capacitance", wanted, "--voltage", voltage, "--limit", "10")
            self.assertEqual(run.returncode, 0, run.stderr)
            best = json.loads(run.stdout)["banks"][0]
            self.assertAlmostEqual(best["capacitance_f"] / float(wanted.replace("n4", ".4").replace("n", "")), 1e-9, 15)
            self.assertGreaterEqual(best["voltage_v"], float(voltage[:-1]) * 999.999)
            self.assertEqual(best["units"], units)
        self.assertEqual(best["layout"], "11 strings of 1 A")
        careful = calc("bank", "--shelf", file.name, "--capacitance", "4n", "--voltage", "30k", "--margin", "0.8")
        self.assertEqual(json.loads(careful.stdout)["banks"], [], "at 80 % two stand in series")
        self.assertIn("makes no bank within 25 %", json.loads(careful.stdout)["reason"])
        ordered = calc("bank", "--shelf", file.name, "--capacitance", "4n", "--voltage", "30k", "--order", "units")
        self.assertEqual(json.loads(ordered.stdout)["banks"][0]["units"], 8, "3.2 nF is within the 25 %")
        near = calc("bank", "--shelf", file.name, "--capacitance", "4n", "--voltage", "30k", "--within", "0.05")
        self.assertEqual(len(json.loads(near.stdout)["banks"]), 1)
        for wrong in (["--capacitance", "4n4 V", "--voltage", "30k"], ["--capacitance", "0", "--voltage", "30k"]):
            self.assertEqual(calc("bank", "--shelf", file.name, *wrong).returncode, 2)

    def test_what_cannot_be_simulated_says_why(self):
        with open(DEMO) as file:
            design = json.load(file)
        design["feed"] = [{"kind": "bridge"}]
        with tempfile.NamedTemporaryFile("w", suffix=".json", delete=False) as file:
            json.dump(design, file)
        self.addCleanup(os.unlink, file.name)
        for command in ("simulate", "netlist"):
            run = calc(command, file.name, "--charging")
            self.assertEqual(run.returncode, 2)
            self.assertIn("needs a transformer before it", run.stderr)
        self.assertIn("--shot or --charging", calc("simulate", DEMO).stderr)

    def test_a_wrong_command_line_is_not_mistaken_for_a_bad_file(self):
        self.assertNotIn(calc("frobnicate").returncode, (0, 2))

    def test_a_full_disk_is_reported(self):
        with open("/dev/full", "w") as full:
            run = subprocess.run([CALC, "analyse", DEMO], stdout=full, stderr=subprocess.PIPE, text=True)
        self.assertNotEqual(run.returncode, 0)
        self.assertIn("cannot be written", run.stderr)

    def test_only_ordinary_files_are_read_and_none_is_waited_for(self):
        with tempfile.TemporaryDirectory() as folder:
            pipe, loop = os.path.join(folder, "pipe.json"), os.path.join(folder, "loop.json")
            os.mkfifo(pipe)
            os.symlink(loop, loop)
            plug = socket.socket(socket.AF_UNIX)
            self.addCleanup(plug.close)
            plug.bind(os.path.join(folder, "plug.json"))
            for path, why in ((pipe, "a pipe"), (loop, "symbolic links"), ("/dev/zero", "a device"), (folder, "a folder"),
                              (os.path.join(folder, "plug.json"), "a socket"), (folder + "/none", "No such file")):
                for command in (["analyse"], ["check"], ["simulate", "--shot"],
                                ["bank", "--capacitance", "12n", "--voltage", "30k", "--shelf"]):
                    run = subprocess.run([CALC, *command, path], capture_output=True, text=True, timeout=60)
                    self.assertEqual(run.returncode, 2, (command, path))
                    self.assertIn(why, run.stderr)

    def test_no_answer_holds_a_null(self):
        # Numbers far out of their ranges: a message, or findings at each, never half an answer.
        folder = os.path.join(ROOT, "tests", "data", "corpus", "design")
        for name in sorted(os.listdir(folder)):
            for command in ("analyse", "power", "interrupter"):
                run = calc(command, os.path.join(folder, name), *(["--no-trials"] if command == "power" else []))
                self.assertIn(run.returncode, (0, 2), name)
                self.assertNotIn("null", run.stdout, (command, name))
                if run.returncode == 2:
                    self.assertTrue(run.stderr.strip(), name)

    def test_every_refusal_names_a_key_and_its_line(self):
        def spoiled(name, spoil):
            with open(os.path.join(ROOT, "examples", name)) as file:
                design = json.load(file)
            spoil(design)
            with tempfile.NamedTemporaryFile("w", suffix=".json", delete=False) as file:
                json.dump(design, file, indent=2)
            self.addCleanup(os.unlink, file.name)
            return file.name

        cases = (("quiet-lantern.json", "feed", ["simulate", "--charging"], lambda d: d["feed"].reverse()),
                 ("quiet-lantern.json", "feed", ["simulate", "--charging"], lambda d: d["feed"].clear()),
                 ("quiet-lantern.json", "kind", ["simulate", "--charging"], lambda d: d.pop("tank")),
                 ("quiet-lantern.json", "kind", ["simulate", "--shot"], lambda d: (d.pop("secondary"), d.pop("primary"))),
                 ("quiet-lantern.json", "secondary", ["simulate", "--shot"], lambda d: d.update(secondary={})),
                 ("quiet-lantern.json", "kind", ["simulate", "--burst"], lambda d: None),
                 ("quiet-lantern.json", "kind", ["interrupter"], lambda d: None),
                 ("copper-heron.json", "feed", ["simulate", "--mains"], lambda d: d["feed"].reverse()),
                 ("copper-heron.json", "interrupter", ["interrupter"], lambda d: d["interrupter"].update(largest_duty=1e-5)),
                 ("glass-willow.json", "primary", ["simulate", "--mains"], lambda d: d.update(primary={})),
                 ("paper-moth.json", "secondary", ["simulate", "--oscillation"], lambda d: d.update(secondary={})))
        for name, key, command, spoil in cases:
            run = calc(*command, spoiled(name, spoil))
            self.assertEqual(run.returncode, 2, (name, key, run.stdout[:200]))
            self.assertRegex(run.stderr, re.escape(key) + r"[\w.\[\]]* \(line \d+\): ", (name, key))

    def test_a_brief_becomes_designs_that_stand_for_themselves(self):
        with tempfile.TemporaryDirectory() as folder:
            brief = os.path.join(ROOT, "examples", "brief.json")
            run = calc("propose", brief, "--count", "3", "--effort", "0.25", "--folder", folder)
            self.assertEqual(run.returncode, 0, run.stderr)
            answer = json.loads(run.stdout)
            self.assertEqual((answer["format"], answer["version"]), ("high-arc-proposals", 1))
            self.assertEqual(len(answer["proposals"]), 3)
            self.assertEqual(len(os.listdir(folder)), 3)
            for name, proposal in zip(sorted(os.listdir(folder)), answer["proposals"]):
                power = json.loads(calc("power", os.path.join(folder, name)).stdout)
                self.assertEqual([f["title"] for f in power["findings"] if f["severity"] == "stop"], [])
                self.assertLess(abs(power["drive"]["line_current_a"] / proposal["figures"]["line_current_a"] - 1), 0.05)
                self.assertLessEqual(power["drive"]["line_current_a"], 8)
                self.assertEqual(proposal["design"]["brief"]["name"], "Garage coil")

    def test_a_number_is_swept_into_a_table(self):
        run = calc("curves", DEMO, "--over", "gap.firing_voltage_v", "--from", "10k", "--to", "14k", "--count", "5")
        self.assertEqual(run.returncode, 0, run.stderr)
        rows = [line.split(",") for line in run.stdout.strip().split("\n")]
        self.assertEqual(rows[0][0], "gap.firing_voltage_v")
        at = [float(row[0]) for row in rows[1:]]
        self.assertEqual((at[0], at[-1]), (10e3, 14e3))
        self.assertEqual(at, sorted(at))
        power = rows[0].index("input_w")
        self.assertTrue(all(float(row[power]) > 0 for row in rows[1:]))
        for bad in (["--over", "gap.nothing"], ["--over", "gap.firing_voltage_v", "--from", "9k", "--to", "8k"],
                    ["--over", "gap.firing_voltage_v", "--from", "high"]):
            refused = calc("curves", DEMO, *bad)
            self.assertEqual((refused.returncode, refused.stdout), (2, ""), bad)
            self.assertTrue(refused.stderr)

    def test_a_figure_is_solved_for_by_a_number_and_the_design_written(self):
        with tempfile.TemporaryDirectory() as folder:
            out = os.path.join(folder, "solved.json")
            run = calc("solve", DEMO, "--make", "mode_1_hz=220k", "--by", "topload.0.outer_diameter_m", "--write", out)
            self.assertEqual(run.returncode, 0, run.stderr)
            answer = json.loads(run.stdout)
            self.assertLess(answer["low"], 220e3)
            self.assertGreater(answer["high"], 220e3)
            solved = json.loads(calc("analyse", out).stdout)["results"]["mode_1_hz"]
            self.assertLess(abs(solved / 220e3 - 1), 1e-5)
            with open(out) as file:
                self.assertAlmostEqual(json.load(file)["topload"][0]["outer_diameter_m"], answer["value"])
        run = calc("solve", DEMO, "--make", "best_mode_1_hz=9M", "--by", "secondary.turns")
        self.assertEqual(run.returncode, 3)
        self.assertIn("out of reach", run.stderr)
        self.assertEqual(json.loads(run.stdout)["reached"], json.loads(run.stdout)["high"])
        for make, by, why in (("loudness=3", "secondary.turns", "loudness"), ("best_mode_1_hz", "secondary.turns", "--make"),
                              ("best_mode_1_hz=quick", "secondary.turns", "quick"), ("coupling=0.1", "boat", "boat")):
            run = calc("solve", DEMO, "--make", make, "--by", by)
            self.assertEqual(run.returncode, 2, make)
            self.assertIn(why, run.stderr)

    def test_what_no_design_can_do_is_told_with_what_fights(self):
        with tempfile.NamedTemporaryFile("w", suffix=".json") as file:
            json.dump({"format": "high-arc-brief", "kinds": ["spark-gap"], "only_shelf": ["wires"],
                       "shelf": {"wires": [{"name": "end", "bare_diameter_m": 4e-4, "overall_diameter_m": 4.4e-4,
                                            "length_m": 9}]}}, file)
            file.flush()
            run = calc("propose", file.name, "--effort", "0.1")
            self.assertEqual(run.returncode, 3, run.stderr)
            self.assertIn("wires", run.stderr)
            self.assertEqual([r["limit"] for r in json.loads(run.stdout)["refused"]], ["wires"])
        run = calc("propose", os.path.join(ROOT, "examples", "quiet-lantern.json"))
        self.assertEqual(run.returncode, 2)
        self.assertIn("not a brief", run.stderr)

    def test_the_number_of_banks_is_bounded(self):
        shelf = os.path.join(ROOT, "examples", "shelf.json")
        for limit in ("-1", "0", "2000"):
            run = calc("bank", "--shelf", shelf, "--capacitance", "12n", "--voltage", "30k", "--limit", limit)
            self.assertNotIn(run.returncode, (0, 2), limit)


if __name__ == "__main__":
    unittest.main()
