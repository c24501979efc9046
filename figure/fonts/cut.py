"""Cuts a TrueType font of one weight and width from the variable parts of a package of fonts.

cut.py PATTERN OUT AXIS=VALUE...   with @@ in PATTERN for the name of a part: latin, latin-ext, vietnamese
"""
import os
import sys
import tempfile

from fontTools import merge
from fontTools.ttLib import TTFont
from fontTools.varLib import instancer

pattern, out, axes = sys.argv[1], sys.argv[2], {a: float(v) for a, v in (x.split("=") for x in sys.argv[3:])}
with tempfile.TemporaryDirectory() as work:
    parts = []
    for part in ("latin", "latin-ext", "vietnamese"):
        font = instancer.instantiateVariableFont(TTFont(pattern.replace("@@", part)), axes)
        for table in ("GSUB", "GPOS", "GDEF", "STAT", "HVAR", "MVAR"):
            if table in font:
                del font[table]
        font.flavor = None
        parts.append(os.path.join(work, part + ".ttf"))
        font.save(parts[-1])
    merge.Merger().merge(parts).save(out)
