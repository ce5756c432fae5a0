import sys
from pathlib import Path

TOP = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(TOP / "src"), str(TOP / "vendor")]
