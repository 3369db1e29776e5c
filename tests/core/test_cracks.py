"""The crack graph against counting arguments and a labelling of another library."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy import ndimage

from bisectum.core.raster.absorb import absorb_small, shared_borders
from bisectum.core.raster.cracks import crack_graph
from bisectum.core.raster.regions import regions_of
from bisectum.core.raster.vertices import JUNCTION, KIND, SADDLE_ANTI, SADDLE_MAIN, vertices_of
from tests.support.zoo import ZOO

images = arrays(np.uint8, st.tuples(st.integers(1, 14), st.integers(1, 14)), elements=st.integers(0, 3))


@pytest.mark.parametrize("name", ZOO)
def test_every_crack_lies_on_one_chain(name: str) -> None:
    check_chains(ZOO[name])


@settings(max_examples=150, deadline=None)
@given(images)
def test_every_crack_lies_on_one_chain_of_any_image(labels: np.ndarray) -> None:
    check_chains(labels)


def check_chains(labels: np.ndarray) -> None:
    graph = crack_graph(labels)
    padded = np.pad(labels.astype(int), 1, constant_values=99)
    expected = int((padded[1:-1, 1:] != padded[1:-1, :-1]).sum() + (padded[1:, 1:-1] != padded[:-1, 1:-1]).sum())
    steps = []
    for chain in range(len(graph.first) - 1):
        own = graph.vertices[graph.first[chain] : graph.first[chain + 1]]
        assert (np.abs(np.diff(own, axis=0)).sum(axis=1) == 1).all()
        left, right = graph.sides[chain]
        assert left != right
        steps += [tuple(sorted((tuple(a), tuple(b)))) for a, b in zip(own.tolist(), own.tolist()[1:], strict=False)]
        if graph.ends[chain, 0] < 0:
            assert (own[0] == own[-1]).all()
        else:
            assert (own[0] == graph.junctions[graph.ends[chain, 0]]).all()
            assert (own[-1] == graph.junctions[graph.ends[chain, 1]]).all()
    assert len(steps) == len(set(steps)) == expected
    # Every half-edge of an open chain leaves exactly one junction.
    spokes = graph.spokes[graph.spokes >= 0]
    assert len(spokes) == len(set(spokes.tolist())) == 2 * int((graph.ends[:, 0] >= 0).sum())


@settings(max_examples=100, deadline=None)
@given(images)
def test_regions_are_what_sides_and_saddles_connect(labels: np.ndarray) -> None:
    kinds, found = vertices_of(labels).codes & KIND, regions_of(labels)
    regions, count = found.numbers, len(found.sizes)
    # SciPy connects by sides; the saddles then join some of those.
    joined: dict[int, int] = {}
    by_sides = np.zeros(labels.shape, int)
    for value in np.unique(labels):
        own, _found = ndimage.label(labels == value)
        by_sides[own > 0] = own[own > 0] + by_sides.max()
    def top(item: int) -> int:
        while joined.get(item, item) != item:
            item = joined[item]
        return item
    for y, x in np.argwhere((kinds == SADDLE_MAIN) | (kinds == SADDLE_ANTI)):
        pair = ((y - 1, x - 1), (y, x)) if kinds[y, x] == SADDLE_MAIN else ((y - 1, x), (y, x - 1))
        one, other = (top(int(by_sides[place])) for place in pair)
        joined[max(one, other)] = min(one, other)
    truth = np.vectorize(lambda item: top(int(item)))(by_sides)
    assert count == len(np.unique(truth))
    assert len({(int(a), int(b)) for a, b in zip(truth.ravel(), regions.ravel(), strict=True)}) == count
    assert (np.bincount(regions.ravel()) == found.sizes).all() and (found.labels[regions] == labels).all()
    assert (np.diff(np.unique(regions.ravel(), return_index=True)[1]) > 0).all()  # numbered as they are first met


def test_a_saddle_connects_the_minority() -> None:
    labels = np.zeros((8, 8), np.uint8)
    labels[3, 3] = labels[4, 4] = 1
    assert vertices_of(labels).codes[4, 4] & KIND == SADDLE_MAIN
    assert vertices_of(1 - labels).codes[4, 4] & KIND == SADDLE_MAIN
    assert vertices_of(labels).codes[0, 0] & KIND == JUNCTION


@settings(max_examples=100, deadline=None)
@given(images, st.integers(2, 9))
def test_absorbing_leaves_nothing_small_that_has_a_neighbour(labels: np.ndarray, smallest: int) -> None:
    result, gone = absorb_small(labels, smallest)
    sizes = regions_of(result).sizes
    assert len(sizes) == 1 or sizes.min() >= smallest
    assert set(np.unique(result)) <= set(np.unique(labels))
    assert (gone == 0) == np.array_equal(result, labels)


def test_a_speck_goes_to_its_longest_border() -> None:
    labels = np.zeros((6, 6), np.uint8)
    labels[:, 3:] = 1
    labels[2, 3] = 2  # one side on 0, three on 1
    result, gone = absorb_small(labels, 2)
    assert gone == 1
    assert result[2, 3] == 1


def test_shared_borders_count_sides() -> None:
    labels = np.array([[0, 1], [0, 2]], np.uint8)
    pairs, lengths = shared_borders(vertices_of(labels), regions_of(labels).numbers)
    assert {tuple(pair): int(n) for pair, n in zip(pairs.tolist(), lengths, strict=True)} == {(0, 1): 1, (0, 2): 1, (1, 2): 1}
