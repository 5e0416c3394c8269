"""Makes `reels`, the documents of every kind, importable by the tests of this room."""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))
