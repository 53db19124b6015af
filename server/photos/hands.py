"""The processes in which close looks touch originals: two are as many as pages have use for."""

from __future__ import annotations

import os

from tray_core.looks import Hands

hands = Hands(min(2, os.cpu_count() or 1))
