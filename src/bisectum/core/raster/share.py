"""The share of one of two colours in a pixel that an edge between them runs through."""

from __future__ import annotations

from bisectum.core.raster.compiled import part

NOTHING = 0.005  # squared shares about a place that a drawing may be off by: values are rounded, curves drawn as chords
CLEARLY = 4.0  # times as many squared shares must one drawing leave for another to be right, and may that one leave of nothing
THIRD_COLOUR = 40.0  # levels off the line between both colours, from which there is another one in the pixel


@part("f8(u1[:,:,:], f8[:], f8[:], f8[:], i8, i8)", inline=True)
def share_in_pixel(image, light, inner, outer, row, column):  # type: ignore[no-untyped-def]
    """The share of the inner colour in a pixel, 0 to 1; below 0 where there is a third colour in it.

    image : (H, W, 4) uint8, light : (256,) what its values stand for; inner, outer : (4,) colours.
    """
    length, along, off = 0.0, 0.0, 0.0
    for c in range(4):
        length += (inner[c] - outer[c]) ** 2
        along += (light[image[row, column, c]] - outer[c]) * (inner[c] - outer[c])
    share = min(1.0, max(0.0, along / max(length, 1e-9)))
    for c in range(4):
        off += (light[image[row, column, c]] - outer[c] - share * (inner[c] - outer[c])) ** 2
    return share if off <= THIRD_COLOUR**2 else -1.0
