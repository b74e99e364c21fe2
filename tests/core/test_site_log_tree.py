"""The hash tree: a root stands for its leaves, in their order, and proofs show no more than is true."""

from __future__ import annotations

from hashlib import sha256

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.refusal import Refusal
from jorvek.core.site_log.entries import Seal, seal_from
from jorvek.core.site_log.tree import (
    EMPTY,
    Frontier,
    Hash,
    includes,
    inclusion_proof,
    leaf_hash,
    node_hash,
    root_of,
)

LEAVES = [leaf_hash(f"entry {n}") for n in range(40)]
sizes = st.integers(1, len(LEAVES))


def by_definition(leaves: list[Hash]) -> Hash:
    """MTH as RFC 9162 writes it down: by halves, the left one a power of two."""
    if not leaves:
        return sha256(b"").digest()
    if len(leaves) == 1:
        return leaves[0]
    half = 1
    while half * 2 < len(leaves):
        half *= 2
    return sha256(b"\x01" + by_definition(leaves[:half]) + by_definition(leaves[half:])).digest()


@pytest.mark.parametrize("size", range(41))
def test_it_grows_to_the_root_of_the_definition(size: int) -> None:
    assert root_of(LEAVES[:size]) == by_definition(LEAVES[:size])


def test_the_reference_tree_of_eight_leaves_has_its_published_root() -> None:
    """The leaves and the root by which implementations of the RFC are held against each other."""
    leaves = ["", "00", "10", "2021", "3031", "40414243", "5051525354555657", "606162636465666768696a6b6c6d6e6f"]
    root = root_of([leaf_hash(bytes.fromhex(leaf).decode()) for leaf in leaves])
    assert root.hex() == "5dc9da79a70659a9ad559cb701ded9a2ab9d823aad2f4960cfe370eff4604328"


def test_no_node_can_stand_for_a_leaf_nor_nothing_for_something() -> None:
    left, right = LEAVES[:2]
    assert node_hash(left, right) != leaf_hash((left + right).decode("latin-1"))
    assert EMPTY not in (leaf_hash(""), root_of(LEAVES[:1]))


@given(sizes)
def test_it_goes_on_from_what_was_kept_of_it(size: int) -> None:
    before = Frontier()
    for leaf in LEAVES[:size]:
        before.add(leaf)
    after = Frontier(before.size, before.parts)
    for leaf in LEAVES[size:]:
        after.add(leaf)
    assert after.root() == root_of(LEAVES)
    assert before.root() == root_of(LEAVES[:size]), "what was kept is not changed by what comes after"


@pytest.mark.parametrize(("size", "parts"), [(-1, 0), (1, 0), (3, 1), (4, 2), (0, 1)])
def test_what_was_kept_fits_its_size(size: int, parts: int) -> None:
    with pytest.raises(ValueError, match="one whole part for each bit"):
        Frontier(size, LEAVES[:parts])


@given(sizes, st.data())
def test_every_leaf_is_shown_to_be_in_and_no_other(size: int, data: st.DataObject) -> None:
    index = data.draw(st.integers(0, size - 1))
    leaves, root = LEAVES[:size], root_of(LEAVES[:size])
    proof = inclusion_proof(leaves, index)
    assert len(proof) <= (size - 1).bit_length(), "short"
    assert includes(root, size, leaves[index], index, proof)
    assert not includes(root, size, leaf_hash("another"), index, proof)
    assert not includes(root, size, leaves[index], size, proof)
    assert not includes(root_of(leaves[:-1]), size, leaves[index], index, proof)
    assert not includes(root, size, leaves[index], index, [*proof, EMPTY])
    if proof:
        assert not includes(root, size, leaves[index], index, proof[:-1])
        assert not includes(root, size, leaves[index], index, [EMPTY, *proof[1:]])
    if size > 1:
        assert not includes(root, size, leaves[index], (index + 1) % size, proof)


def test_there_is_no_proof_of_a_leaf_that_is_not_there() -> None:
    for index in (-1, 3):
        with pytest.raises(ValueError, match="no such leaf"):
            inclusion_proof(LEAVES[:3], index)


# ---- the seal as people keep it --------------------------------------------------------------------------------------


@given(st.integers(0, 10**12 - 1), st.binary(min_size=32, max_size=32))
def test_a_printed_seal_is_read_again_however_it_is_spaced(size: int, root: bytes) -> None:
    seal = Seal(size=size, root=root.hex())
    printed = seal.printed()
    for text in (printed, printed.upper(), printed.replace(" ", "-"), f"  {printed}\n", f"{size} {root.hex()}"):
        assert seal_from(text) == seal


@pytest.mark.parametrize(
    "text",
    ["", "12", f"12 {'a' * 63}", f"12 {'a' * 65}", f"12 {'g' * 64}", "a" * 64, f"12{'a' * 64}"],
)
def test_what_is_no_seal_says_so(text: str) -> None:
    with pytest.raises(Refusal) as refused:
        seal_from(text)
    assert refused.value.code == "no_seal"
