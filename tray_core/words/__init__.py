"""What files say beside their pixels: reading it from the formats' own places, and writing it into renditions."""

from tray_core.words.blocks import Blocks, blocks_of
from tray_core.words.reading import Said, read_words, sidecar_bytes, sidecar_paths, with_words

__all__ = ["Blocks", "Said", "blocks_of", "read_words", "sidecar_bytes", "sidecar_paths", "with_words"]
