"""The hash tree of RFC 9162, section 2.1: one root for a list that only grows, and short proofs about it.

A leaf is the text of an entry. A root over the first n leaves stands for all of them: an inclusion proof shows that an
entry is among them. Whether a later root adds to an earlier one is told by the leaves themselves, which are all kept.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from hashlib import sha256
from typing import Final, TypeAlias

Hash: TypeAlias = bytes
EMPTY: Final[Hash] = sha256(b"").digest()
"""Root of no leaves (RFC 9162, 2.1.1)."""


def leaf_hash(text: str) -> Hash:
    """Return the hash of a leaf: marked, so that no node can stand for one (RFC 9162, 2.1.1)."""
    return sha256(b"\x00" + text.encode()).digest()


def node_hash(left: Hash, right: Hash) -> Hash:
    """Return the hash of a node over its two halves (RFC 9162, 2.1.1)."""
    return sha256(b"\x01" + left + right).digest()


class Frontier:
    """The tree as it grows: the roots of its whole parts, largest first, one for each bit of its size.

    Args:
        size: number of leaves.
        parts: roots of the whole parts.

    Raises:
        ValueError: when there is not one part for each bit of the size.
    """

    def __init__(self, size: int = 0, parts: Iterable[Hash] = ()) -> None:
        self.size, self.parts = size, list(parts)
        if size < 0 or len(self.parts) != size.bit_count():
            raise ValueError("a tree has one whole part for each bit of its size")

    def add(self, leaf: Hash) -> None:
        """Add a leaf; halves that have become whole are joined."""
        part, size = leaf, self.size
        while size & 1:
            part, size = node_hash(self.parts.pop(), part), size >> 1
        self.parts.append(part)
        self.size += 1

    def root(self) -> Hash:
        """Return the root over all leaves."""
        if not self.parts:
            return EMPTY
        found = self.parts[-1]
        for part in reversed(self.parts[:-1]):
            found = node_hash(part, found)
        return found


def root_of(leaves: Sequence[Hash]) -> Hash:
    """Return the root over a list of leaf hashes."""
    frontier = Frontier()
    for leaf in leaves:
        frontier.add(leaf)
    return frontier.root()


def _split(size: int) -> int:
    """Return the largest power of two below a size: where the tree divides (RFC 9162, 2.1.1)."""
    return int(1 << ((size - 1).bit_length() - 1))


def inclusion_proof(leaves: Sequence[Hash], index: int) -> list[Hash]:
    """Return what, with a leaf, leads to the root: PATH of RFC 9162, 2.1.3.1.

    Raises:
        ValueError: when there is no such leaf.
    """
    if not 0 <= index < len(leaves):
        raise ValueError("there is no such leaf")
    return list(_path(leaves, index))


def _path(leaves: Sequence[Hash], index: int) -> Iterator[Hash]:
    if len(leaves) > 1:
        half = _split(len(leaves))
        near, far = (leaves[:half], leaves[half:]) if index < half else (leaves[half:], leaves[:half])
        yield from _path(near, index if index < half else index - half)
        yield root_of(far)


def includes(root: Hash, size: int, leaf: Hash, index: int, proof: Sequence[Hash]) -> bool:
    """Tell whether a proof shows that a leaf stands at an index under a root (RFC 9162, 2.1.3.2)."""
    if not 0 <= index < size:
        return False
    at, last, found = index, size - 1, leaf
    for part in proof:
        if last == 0:
            return False
        if at & 1 or at == last:
            found = node_hash(part, found)
            while not at & 1 and at:
                at, last = at >> 1, last >> 1
        else:
            found = node_hash(found, part)
        at, last = at >> 1, last >> 1
    return last == 0 and found == root
