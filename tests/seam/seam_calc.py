"""The kind that only tests know, in the command-line program."""
import json
import os
import subprocess
import tempfile
import unittest

CALC = os.environ["HIGH_ARC_CALC"]
ROOT = os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "..")


class Seam(unittest.TestCase):
    def setUp(self):
        with open(os.path.join(ROOT, "examples", "quiet-lantern.json")) as file:
            design = json.load(file)
        design["kind"] = "generator"
        with tempfile.NamedTemporaryFile("w", suffix=".json", delete=False) as file:
            json.dump(design, file)
        self.path = file.name
        self.addCleanup(os.unlink, self.path)

    def run_calc(self, *arguments):
        run = subprocess.run([CALC, *arguments], capture_output=True, text=True)
        self.assertEqual(run.returncode, 0, run.stderr)
        return run.stdout

    def test_its_way_to_simulate_its_option_and_its_findings_are_there(self):
        results = json.loads(self.run_calc("simulate", self.path, "--sweep", "--volts", "20"))["results"]
        power = json.loads(self.run_calc("power", self.path))
        self.assertAlmostEqual(results["top_peak_v"], 2 * power["generator_top_v"])
        self.assertAlmostEqual(power["drive"]["frequency_hz"], results["frequency_hz"])
        analysed = json.loads(self.run_calc("analyse", self.path))
        self.assertIn("generator-q", [f["id"] for f in analysed["findings"]])
        self.assertNotIn("tank_hz", analysed["results"])
        self.assertIn("--sweep", self.run_calc("simulate", "--help"))

    def test_a_way_of_another_kind_is_refused(self):
        run = subprocess.run([CALC, "simulate", self.path, "--shot"], capture_output=True, text=True)
        self.assertEqual(run.returncode, 2)
        self.assertIn("has no --shot; it has --sweep", run.stderr)


if __name__ == "__main__":
    unittest.main()
