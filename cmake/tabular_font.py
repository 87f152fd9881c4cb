"""Bakes a face whose figures are all of one width: the glyphs of the font's own "tnum" feature take the place of the
plain figures, under a family name of our own (SIL Open Font License 1.1).  tabular_font.py IN.otf OUT.otf"""
import os
import sys

from fontTools.ttLib import TTFont

FAMILY = "Conduit Figures"


def tabular(font):
    gsub = font["GSUB"].table
    swaps = {}
    for record in gsub.FeatureList.FeatureRecord:
        if record.FeatureTag != "tnum":
            continue
        for index in record.Feature.LookupListIndex:
            for sub in gsub.LookupList.Lookup[index].SubTable:
                sub = getattr(sub, "ExtSubTable", sub)
                swaps.update(getattr(sub, "mapping", {}))
    return swaps


def main(source, target):
    font = TTFont(source)
    swaps = tabular(font)
    for table in font["cmap"].tables:
        for code in range(0x30, 0x3A):
            name = table.cmap.get(code)
            if name in swaps:
                table.cmap[code] = swaps[name]
    style = font["name"].getDebugName(17) or font["name"].getDebugName(2)
    for record in font["name"].names:
        if record.nameID in (1, 16):
            record.string = FAMILY
        elif record.nameID in (4, 6):
            record.string = (FAMILY + " " + style).replace(" ", "-" if record.nameID == 6 else " ")
    if "CFF " in font:
        top = font["CFF "].cff
        top.fontNames[0] = (FAMILY + "-" + style).replace(" ", "")
    os.makedirs(os.path.dirname(target), exist_ok=True)
    font.save(target)


main(sys.argv[1], sys.argv[2])
