#!/usr/bin/env python3
"""Writes Inter with its digits remapped to their tabular forms, under a family name of our own.

Qt 6.4 cannot ask a font for tabular figures. Inter's licence (SIL OFL 1.1) reserves its name for the original, so the
result is called Heft Sans; the licence text ships beside it.
Usage: make_font.py INTER.otf OUT.otf SUBFAMILY
"""
import sys

from fontTools.ttLib import TTFont


def tabular_digits(font):
    """Glyph names that the feature tnum substitutes."""
    out = {}
    gsub = font["GSUB"].table
    for record in gsub.FeatureList.FeatureRecord:
        if record.FeatureTag != "tnum":
            continue
        for index in record.Feature.LookupListIndex:
            for sub in gsub.LookupList.Lookup[index].SubTable:
                sub = getattr(sub, "ExtSubTable", sub)
                out.update(getattr(sub, "mapping", {}))
    return out


def main():
    source, target, style = sys.argv[1:4]
    font = TTFont(source, recalcTimestamp=False)
    swap = tabular_digits(font)
    for table in font["cmap"].tables:
        for code, glyph in list(table.cmap.items()):
            if chr(code) in "0123456789+-.:" or code == 0x2212:
                table.cmap[code] = swap.get(glyph, glyph)
    for record in font["name"].names:
        if record.nameID in (1, 16):
            record.string = "Heft Sans"
        elif record.nameID in (4, 6):
            record.string = "HeftSans-" + style
        elif record.nameID == 3:
            record.string = "HeftSans-" + style + ", made from Inter"
        elif record.nameID == 5:
            record.string = "Version 1.0"
    if "CFF " in font:
        cff = font["CFF "].cff
        cff.fontNames[0] = "HeftSans-" + style
        cff.topDictIndex[0].FamilyName = "Heft Sans"
        cff.topDictIndex[0].FullName = "Heft Sans " + style
    font.save(target)


main()
