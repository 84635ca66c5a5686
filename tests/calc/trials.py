"""How much a test tries: HIGH_ARC_TRIALS says so."""
import os


def few():
    """Fewer than a comparison takes, as under the sanitizers, which look at the program that answers."""
    return int(os.environ.get("HIGH_ARC_TRIALS", "1000")) < 10
