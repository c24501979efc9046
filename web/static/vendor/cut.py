"""Cuts a font for the pages: the letters of the ranges alone, the axes within their limits.

cut.py SOURCE OUT RANGES [AXIS=VALUE or AXIS=LEAST:MOST]...   with RANGES as in CSS, without "U+"
"""
import sys

from fontTools import subset
from fontTools.ttLib import TTFont
from fontTools.varLib import instancer

source, out, ranges, axes = sys.argv[1], sys.argv[2], sys.argv[3], sys.argv[4:]
limits = {}
for axis in axes:
    name, value = axis.split("=")
    ends = tuple(float(v) for v in value.split(":"))
    limits[name] = ends if len(ends) > 1 else ends[0]
options = subset.Options()
options.flavor = "woff2"
options.layout_features = ["kern", "tnum", "lnum", "locl", "ccmp", "mark"]
cutter = subset.Subsetter(options)
cutter.populate(unicodes=subset.parse_unicodes(ranges))
font = instancer.instantiateVariableFont(TTFont(source), limits)
cutter.subset(font)
font.flavor = "woff2"
font.save(out)
