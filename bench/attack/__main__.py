import sys
from pathlib import Path

from bench.attack import run

run(Path(".cache/bench"), *(int(word) for word in sys.argv[1:]))
