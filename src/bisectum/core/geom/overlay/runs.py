"""Chains of edges between junctions, and the fewest curves that draw them.

Where an edge goes on along the same segment as the one before, both are one stretch of that segment again: the vertex
between them was only needed by lines that are gone.
"""

from __future__ import annotations

import numpy as np

from bisectum.core.raster.compiled import kernel, part

MOST = 64  # segments that one edge is looked at as part of
SAME = 1e-9  # of a segment's parameter: stretches that end nearer than this to each other join


@kernel("i8(i4[:,:], i8[:], i4[:], i8[:], b1[:]!, i4[:]!, i8[:]!)")
def trace_chains(ends, around, spokes, order, seen, halves, first):  # type: ignore[no-untyped-def]
    """Walk all chains: edges between vertices at which other than two meet, and rounds without such a vertex.

    ends : (E, 2); around : (V + 1,), spokes : (2 E,): half-edges at each vertex; order: edges in the order in which chains begin.
    seen : (E,) false; halves : (E,), first : (E + 1,) are written. Returns how many chains there are.
    """
    chains, used = 0, 0
    for turn in range(2):  # those from junction to junction, then the rounds
        for k in range(len(order)):
            edge = order[k]
            for back in range(2):
                vertex = ends[edge, back]
                if seen[edge] or (turn == 0 and around[vertex + 1] - around[vertex] == 2):
                    continue
                half = 2 * edge + back
                first[chains] = used
                while True:
                    seen[half >> 1] = True
                    halves[used] = half
                    used += 1
                    at = ends[half >> 1, 1 - (half & 1)]
                    if around[at + 1] - around[at] != 2:
                        break
                    following = spokes[around[at]]
                    if following == half ^ 1:
                        following = spokes[around[at] + 1]
                    if seen[following >> 1]:
                        break
                    half = following
                chains += 1
    first[chains] = used
    return chains


@part("i8(i8[:], i8[:], f8[:], f8[:], b1[:], i4, i4)")
def _goes_on(member_first, member, t0, t1, forward, half, following):  # type: ignore[no-untyped-def]
    """Whether a half-edge goes on along a segment of the one before."""
    for a in range(member_first[half >> 1], member_first[(half >> 1) + 1]):
        way = forward[a] ^ (half & 1 == 1)
        for b in range(member_first[following >> 1], member_first[(following >> 1) + 1]):
            if member[a] == member[b] and (forward[b] ^ (following & 1 == 1)) == way and (
                    abs(t1[a] - t0[b]) < SAME if way else abs(t0[a] - t1[b]) < SAME):
                return True
    return False


@kernel("i8(i4[:]!, i8[:], b1[:], i8[:], i8[:], f8[:], f8[:], b1[:], i8[:]!, i4[:]!, i4[:]!, f8[:,:]!, i8[:]!)")
def join_runs(halves, first, is_round, member_first, member, t0, t1, forward, runs, count, source, ranges, chain_first):  # type: ignore[no-untyped-def]
    """Runs of half-edges that one stretch of a segment draws, the longest first found.

    halves : (H,), first : (C + 1,): the chains; rounds among them are turned so that they begin where a run does. For each run is
    written: runs, where in `halves` it begins; count, how many it has; source, the segment; ranges, where on it the run begins
    and ends as walked. chain_first : (C + 1,). Returns how many runs there are.
    """
    used = 0
    active, way, now, begin = np.empty(MOST, np.int64), np.empty(MOST, np.int64), np.empty(MOST), np.empty(MOST)
    turned = np.empty(len(halves), np.int32)
    for c in range(len(first) - 1):
        low, high = first[c], first[c + 1]
        chain_first[c] = used
        if is_round[c]:
            for k in range(low, high):
                before = halves[k - 1] if k > low else halves[high - 1]
                if not _goes_on(member_first, member, t0, t1, forward, before, halves[k]):
                    for i in range(low, high):
                        turned[i] = halves[low + (k - low + i - low) % (high - low)]
                    for i in range(low, high):
                        halves[i] = turned[i]
                    break
        k = low
        while k < high:
            edge, back = halves[k] >> 1, halves[k] & 1 == 1
            size = 0
            for a in range(member_first[edge], min(member_first[edge + 1], member_first[edge] + MOST)):
                on = forward[a] ^ back
                active[size], way[size] = member[a], 1 if on else 0
                begin[size], now[size] = (t0[a], t1[a]) if on else (t1[a], t0[a])
                size += 1
            best_source, best_begin, best_end, start = active[0], begin[0], now[0], k
            k += 1
            while k < high:
                edge, back = halves[k] >> 1, halves[k] & 1 == 1
                left = 0
                for a in range(size):
                    for b in range(member_first[edge], member_first[edge + 1]):
                        on = forward[b] ^ back
                        if member[b] != active[a] or (1 if on else 0) != way[a]:
                            continue
                        if abs((t0[b] if on else t1[b]) - now[a]) < SAME:
                            active[left], way[left], begin[left] = active[a], way[a], begin[a]
                            now[left] = t1[b] if on else t0[b]
                            left += 1
                            break
                if left == 0:
                    break
                size = left
                best_source, best_begin, best_end = active[0], begin[0], now[0]
                k += 1
            runs[used], count[used], source[used] = start, k - start, best_source
            ranges[used, 0], ranges[used, 1] = best_begin, best_end
            used += 1
    chain_first[len(first) - 1] = used
    return used
