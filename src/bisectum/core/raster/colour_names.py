"""What people call a colour: the nearest centroid of the ISCC–NBS system, under a short everyday word.

Centroids: K. L. Kelly, D. B. Judd, "Color: Universal Language and Dictionary of Names", NBS Special Publication 440, 1976, in
sRGB, 266 of 267. The system has names such as "dark greyish yellowish brown"; each centroid stands here under a plainer word.
Paints do not reach the corners of sRGB: these are named as in CSS Color Module Level 4 (W3C), under the same words.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bisectum.core.raster.difference import ciede2000, cielab

RGB = tuple[int, int, int]

# "word: centroids of the published names that it stands for"
_CENTROIDS = """
Black: 222222 202428 28201c 1e2321 25241d 242124 282022
Dark grey: 555555 4e5755 5d555b 57554c
Grey: 848482 7d8984 8b8589 8a8776
Light grey: b9b8b5 b2beb5 bfb9bd
Blue-grey: 81878b 51585e b4bcc0
White: f2f3f4 e9e9ed dfede8 eae3e1 e8e3e5
Cream: f0ead6
Pale grey: c1b6b3
Stone: bfb8a5
Taupe: 5b504f 8e8279 958070 7e6d5a 483c32 8f817f 5c504f
Red: be0032 bc3f4a ab4e52 aa381e
Dark red: 841b2d 722f37 5c0923 3f1728 2e1d21
Greyish red: 905d5d 543d3f ad8884
Pink: ffb5ba ea9399 e4717a dea5a4 e68fac de6fa1 d597ae
Light pink: f9ccca f4c2c2 ffc8d6 efbbcc ead8d7 e8ccd7
Dusty pink: c08081 c4aead c7ada3 c17e91 c3a6b1 c48379 d9a6a9
Salmon: ffb7a5 f99379
Peach: ecd5c5 fad6a5 fbc97f
Orange-red: e25822 d9603b e66721
Rust: cb6d51 9e4732 b4745e
Red-brown: 882d17 79443b a87c6d 674c47 977f73
Dark red-brown: 56070c 3e1d1e 43302e
Dark brown: 593319 422518 3e322c 4b3621 3b3121
Brown: 80461b 6f4e37 654522 826644 635147
Light brown: a67b5b ae6938 996515
Orange: f38400 fd943f ed872d be6516 d99058
Light orange: fab57f
Amber: f6a600 eaa221
Ochre: c98500 e3a857 be8a3d
Tan: c19a6b
Beige: c2ac99
Yellow: f3c300 fada5e d4af37 ffc14f
Light yellow: f8de7e
Pale yellow: f3e5ab ebe8a4
Mustard: af8d13 c9ae5d ab9144
Sand: c2b280
Khaki: a18f60 b9b57d
Lemon: dcd300 e9e450 eae679
Greenish yellow: beb72e b9b459
Olive: 9b9400 98943e 867e36 665d1e 967117 6c541e 8c8767
Dark olive: 403d21 5b5842 363527
Lime: 8db600 bdda57
Yellow-green: 7e9f2e
Sage: 8a9a5b 8f9779 8da399
Olive green: 404f00 4a5d23 515744
Dark olive green: 232f00 2b3d26 31362b
Green: 27a64c 44944a 467129 679267 008856 3eb489 007959 3b7861 6aab8e
Light green: 83d37d 93c592 b6e5af c9dc89 8ed1b2
Pale green: dadfb7 c7e6d7
Dark green: 00622d 355e3b 003118 173620 00543d 1b4d3e 1c352d 1a2421
Greyish green: 5e716a 3a4b47
Teal: 008882 00a693 007a74 317873
Light teal: 66ada4 96ded1
Dark teal: 00443f 004b49 002a29 004958 002e3b
Teal blue: 0085a1 239eba 007791 2e8495 367588
Turquoise: 00a1c2
Light blue: a1caf1 70a3cc 66aabc 9cd1dc
Blue: 4997d0 0067a5 436b95 30267a
Dark blue: 00416a 00304e 202830 272458 252440 36454f
Pale blue: bcd4e6 c0c8e1
Greyish blue: 91a3b0 536878 8c92ac 4c516d
Violet blue: 6c79b8 545aa7 4e5180
Lavender: b3bce2 8791bf dcd0ff c4c3dd
Violet: 9065ca 7e73b8 604e97 604e81 8c82b6
Dark violet: 32174d 2f2140
Greyish violet: 9690ab 554c69
Purple: 9a4eae d399e6 875692 602f6b 86608e
Lilac: d5badb b695c0 d6cadd
Dark purple: 401a4c 563c5c 301934 291e29
Greyish purple: aa98a9 796878 50404d
Magenta: 870074 9e4f88
Plum: 702963 54194e 5d3954 341731
Mauve: b784a7 915c83 aa8a9e 836479 af868e 915f6d
Raspberry: ce4676 b3446c a8516e
Wine: 78184a 54133b 673147 38152c
"""
_SCREEN = """
Red: ff0000
Dark red: 800000 8b0000
Orange: ffa500 ff8c00
Yellow: ffff00 ffd700
Pale yellow: f0e68c fafad2
Green: 00ff00 008000
Turquoise: 00ffff 40e0d0
Blue: 0000ff
Dark blue: 000080 191970
Dark violet: 4b0082
Purple: 800080
Magenta: ff00ff
Tan: deb887
Light grey: d3d3d3
"""
_LINES = [line.split(": ") for line in (_CENTROIDS + _SCREEN).splitlines() if line]
_WORDS = [(word, tuple(bytes.fromhex(centroid))) for word, centroids in _LINES for centroid in centroids.split()]
_LAB = cielab(np.array([rgb for _, rgb in _WORDS], np.uint8))  # (N, 3) float64
_DARKER, _LIGHTER = ("darker", "darkest"), ("lighter", "lightest")


def plain_name(rgb: RGB) -> str:
    """An everyday name for a colour, such as "Dark blue": a first name for a layer, which the person may change."""
    return _WORDS[int(np.argmin(ciede2000(cielab(np.array(rgb, np.uint8)), _LAB)))][0]


def distinct_names(named: Sequence[tuple[str, RGB]]) -> tuple[str, ...]:
    """The names of colours, none twice: of several reds the first is "Red", others "Red, darker" or "Red, lightest", then
    "Red 4"."""
    light = [float(cielab(np.array(rgb, np.uint8))[0]) for _, rgb in named]
    result = [name for name, _ in named]
    for name in dict.fromkeys(result):
        first, *others = [i for i, (own, _) in enumerate(named) if own == name]
        darker = sorted((i for i in others if light[i] < light[first]), key=lambda i: -light[i])
        lighter = sorted((i for i in others if light[i] > light[first]), key=lambda i: light[i])
        for order, words in ((darker, _DARKER), (lighter, _LIGHTER)):
            for i, word in zip(order, words, strict=False):
                result[i] = f"{name}, {word}"
    return _numbered(result)


def _numbered(names: list[str]) -> tuple[str, ...]:
    """What is still called alike is numbered through."""
    result: list[str] = []
    for plain in names:
        name, number = plain, 2
        while name in result:
            name, number = f"{plain} {number}", number + 1
        result.append(name)
    return tuple(result)
