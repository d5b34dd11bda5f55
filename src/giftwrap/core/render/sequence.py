"""Numbers that fill a square evenly: Sobol points, shuffled and scrambled anew for each pixel.

Points of one key are independent of those of another; the first 2ⁿ of a key, and every 2ⁿ after
them, fall one into each cell of the square cut into 2ⁿ equal boxes of any proportion.
"""

from __future__ import annotations

import drjit as dr
from drjit.llvm.ad import Array2f, Float, UInt32

PLACE, LAMP, CHOICES, MIRROR, WAY, LENS = (number * 0x9E3779B9 & 0xFFFFFFFF for number in range(6))
"""What the even sequences of a pixel are for. A path uses each at most once: where it starts in the
pixel, where on a lamp it aims first, which lamp and which way it goes on there, whether the first
smooth surface mirrors it, the direction in which it is first spread, and where in the lens it starts."""
ODD = 0x85EBCA6B
"""Sets the series of odd samples apart."""
_HALVES = ((0xFFFF0000, 16), (0xFF00FF00, 8), (0xF0F0F0F0, 4), (0xCCCCCCCC, 2), (0xAAAAAAAA, 1))


def even_points(index: UInt32, key: UInt32) -> Array2f:
    """Points with a number of the sequence that belongs to a key, in [0, 1)².

    The two-dimensional Sobol sequence under nested uniform (Owen) scrambling, by hashing (Burley
    2020, Practical Hash-based Owen Scrambling, JCGT 9(4); the constants are from memory).
    """
    shuffled = dr.brev(_permuted(dr.brev(index), key))
    across = dr.brev(_permuted(shuffled, mixed(key ^ UInt32(0x68BC21EB))))
    up = dr.brev(_permuted(_second(shuffled), mixed(key ^ UInt32(0x02E5BE93))))
    return Array2f(_fraction(across), _fraction(up))


def mixed(value: UInt32) -> UInt32:
    """A number in which every bit depends on every bit of another."""
    value = (value ^ (value >> 16)) * UInt32(0x7FEB352D)
    value = (value ^ (value >> 15)) * UInt32(0x846CA68B)
    return value ^ (value >> 16)


def evenly(key: UInt32, sample: UInt32, purpose: UInt32) -> Array2f:
    """A sample's point for a purpose.

    Samples of even and of odd numbers are two series that know nothing of each other: by how far they
    are apart a film tells its noise.
    """
    return even_points(sample >> 1, mixed(key + (sample & 1) * UInt32(ODD) + purpose))


def chance_of(key: UInt32, sample: UInt32, step: UInt32) -> Float:
    """Evenly from 0 to 1: a number of its own for each step of a path, apart from the path's others."""
    bits = mixed(key ^ mixed(sample * UInt32(0x9E3779B9) + step * UInt32(0x85EBCA6B) + UInt32(0x27D4EB2F)))
    return Float(bits >> 8) * (1.0 / (1 << 24))


def _permuted(bits: UInt32, key: UInt32) -> UInt32:
    """Bits of which each is flipped or not as the lower ones and the key say."""
    bits = bits + key
    for factor in (0x6C50B47C, 0xB82F1E52, 0xC7AFE638, 0x8D22F6E6):
        bits = bits ^ (bits * UInt32(factor))
    return bits


def _second(index: UInt32) -> UInt32:
    """The second Sobol coordinate of an index, its bits in reverse: Pascal's triangle mod 2."""
    for mask, shift in _HALVES:
        index = index ^ ((index & UInt32(mask)) >> shift)
    return index


def _fraction(bits: UInt32) -> Float:
    return Float(bits >> 8) * (1.0 / (1 << 24))
