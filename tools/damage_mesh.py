#!/usr/bin/env python3
"""Damages a sound binary STL the way files from elsewhere are damaged, to make the demo's leaf guard:
tools/damage_mesh.py IN.stl OUT.stl. Removes a few facets (holes), turns a patch over, doubles some facets, and
shifts the corners of one facet by a few micrometres (open seams). The same input gives the same output."""
import struct
import sys

data = open(sys.argv[1], "rb").read()
count = struct.unpack_from("<I", data, 80)[0]
facets = [list(struct.unpack_from("<12f", data, 84 + 50 * i)) for i in range(count)]


def centre(f):
    return [sum(f[3 + 3 * c + k] for c in range(3)) / 3 for k in range(3)]


flat = [i for i, f in enumerate(facets) if abs(f[2]) > 0.99]
wall = [i for i, f in enumerate(facets) if abs(f[2]) < 0.1 and abs(centre(f)[0]) > 20]
gone = {wall[3], wall[4], wall[20], flat[10], flat[11]}
turned = {i for i, f in enumerate(facets) if centre(f)[0] > 8 and centre(f)[1] > 8 and f[2] > 0.9 and i not in gone}
doubled = [f for i, f in enumerate(facets) if i not in gone][40:52]
out = []
for i, f in enumerate(facets):
    if i in gone:
        continue
    if i in turned:
        f = [-f[0], -f[1], -f[2]] + f[3:6] + f[9:12] + f[6:9]
    if i == wall[40]:
        f = f[:3] + [v + 0.004 for v in f[3:]]
    out.append(f)
out += doubled
with open(sys.argv[2], "wb") as file:
    file.write(b"leaf guard, as it came".ljust(80, b"\0") + struct.pack("<I", len(out)))
    for f in out:
        file.write(struct.pack("<12fH", *f, 0))
