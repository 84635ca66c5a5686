"""The command-line program: results by key, exit codes, messages, round trips."""
import json
import os
import subprocess
import tempfile
import unittest

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
        hz = 1 / (2 * 3.141592653589793 * (results["effective_inductance_h"] * results["effective_capacitance_f"]) ** 0.5)
        self.assertAlmostEqual(hz / results["mode_1_hz"], 1, 9)

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
        for text, words in (("", "empty"), ("{", "cut off"), ('{"format":"high-arc-design","version":1}', "missing")):
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
        self.assertTrue(lines[0].startswith("when,tap_turns,"))
        self.assertEqual(len(lines), 9)

    def test_help_lists_every_command_with_an_example(self):
        text = calc("--help").stdout
        for command in ("analyse", "runs", "check"):
            self.assertIn(f"example: high-arc-calc {command}", text)

    def test_a_wrong_command_line_is_not_mistaken_for_a_bad_file(self):
        self.assertNotIn(calc("frobnicate").returncode, (0, 2))

    def test_a_full_disk_is_reported(self):
        with open("/dev/full", "w") as full:
            self.assertNotEqual(subprocess.run([CALC, "analyse", DEMO], stdout=full).returncode, 0)


if __name__ == "__main__":
    unittest.main()
