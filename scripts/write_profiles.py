"""Write the color profiles that ship with the core. Run once; the files are committed.

Source: the primaries of SMPTE RP 431-2 with a D65 white and the curve of IEC 61966-2-1 for Display P3; the
chromaticities .64/.33, .21/.71, .15/.06 with D65 and a gamma of 563/256 for the Adobe-RGB-compatible space.
"""

from __future__ import annotations

from tray_core.photo.profile_files import SHIPPED
from tray_core.photo.profile_making import CURVES, PRIMARIES, grey_profile, matrix_profile


def main() -> None:
    """Write all three."""
    wide = ((0.64, 0.33), (0.21, 0.71), (0.15, 0.06))
    for name, made in {
        "Display-P3": matrix_profile("Display P3", PRIMARIES[12], CURVES[13]),
        "Adobe-RGB-compatible": matrix_profile("Adobe-RGB-compatible", wide, (563 / 256,)),
        "Grey": grey_profile("Grey, curve of sRGB"),
    }.items():
        (SHIPPED / f"{name}.icc").write_bytes(made)


if __name__ == "__main__":
    main()
