"""A whole cycle of the mains through the SPICE program: the tube demo's feed, oscillator and thyristor together. It
takes a minute there."""
import json
import os
import unittest

import spice
from test_exciter import run

ROOT = os.path.join(os.path.dirname(__file__), "..", "..")


class WholeCycle(unittest.TestCase):
    def test_the_spice_program_agrees_on_a_cycle_of_the_tube_demo(self):
        with open(os.path.join(ROOT, "examples", "glass-willow.json")) as file:
            design = json.load(file)
        options = ("--mains", "--lumped", "--cycles", "1")
        own = run(design, "simulate", *options)
        self.assertEqual(own.returncode, 0, own.stderr)
        results = json.loads(own.stdout)["results"]
        self.assertTrue(results["oscillates"])
        measured = spice.measurements(run(design, "netlist", *options).stdout)
        for name, per_cent in (("frequency_hz", 0.5), ("plate_input_w", 2), ("plate_dissipation_w", 3),
                               ("grid_bias_v", 2), ("cathode_peak_a", 3), ("top_peak_v", 2), ("line_rms_a", 2)):
            self.assertAlmostEqual(measured[name], results[name], delta=per_cent / 100 * abs(results[name]), msg=name)


if __name__ == "__main__":
    unittest.main()
