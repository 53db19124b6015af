"""Write docs/sentences.md: python scripts/write_sentences.py. Read it aloud afterwards."""

from __future__ import annotations

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from tray_core.tests.spoken import table

(Path(__file__).parents[1] / "docs" / "sentences.md").write_text(table())
