"""Does the site log stand, and does everything stand as it was taken in?"""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, field

import sqlalchemy as sa

from jorvek.core.site_log.entries import Root, SiteLogEntry
from jorvek.core.site_log.tree import Frontier, leaf_hash
from jorvek.store import tables as t
from jorvek.store.alteration import Alteration
from jorvek.store.recorded import RECORDED, digest_of, name_of, vouched_text
from jorvek.store.site_key import SiteKey, fingerprint, signed
from jorvek.store.sitelog import HEAD, KEY, LOGS

_LOG = "the site log"


@dataclass
class Sealed:
    """What the site log says, read from end to end.

    Attributes:
        entries: how many.
        newest: the newest root; None where nothing was sealed yet.
        states: by table and name, the fingerprint of the row as it was taken in last.
        heads: by kind and id of a log, the hash of its event at each sequence that was taken in.
        found: what is wrong with the site log itself.
    """

    entries: int = 0
    newest: Root | None = None
    states: dict[str, dict[str, str]] = field(default_factory=dict)
    heads: dict[str, dict[str, dict[int, str]]] = field(default_factory=dict)
    found: list[Alteration] = field(default_factory=list)

    def say(self, why: str, seq: int | None = None) -> None:
        """Note what is wrong with the site log itself."""
        self.found.append(Alteration(_LOG, seq, why))


def read_sealed(connection: sa.Connection, key: SiteKey | None) -> Sealed:
    """Read the site log from end to end, and hold every root against what it stands for.

    Args:
        connection: where.
        key: the site's key; without it the signatures are checked by the keys that are written here.
    """
    sealed = Sealed()
    keys = {row.id: row.public_key for row in connection.execute(sa.select(t.site_key))}
    roots = {row.size: row for row in connection.execute(sa.select(t.site_root))}
    frontier, named = Frontier(), dict[str, str]()
    for row in connection.execute(sa.select(t.site_entry).order_by(t.site_entry.c.place)):
        if row.place != frontier.size:
            sealed.say("an entry is missing", frontier.size)
            break
        entry = _entry(row)
        if entry is None:
            sealed.say("an entry cannot be read, or stands under another name", row.place)
        else:
            _take(sealed, entry, named, sealed.newest)
        frontier.add(leaf_hash(row.body))
        if frontier.size in roots:
            sealed.newest = _root(sealed, roots.pop(frontier.size), frontier, keys, named)
    sealed.entries = frontier.size
    if key is not None and key.has_sealed and sealed.newest is None:
        sealed.say("it is empty, and this site has sealed before: it was taken away")
    for size in sorted(roots):
        sealed.say("there is a root over entries that are not there", size)
    if frontier.size and (sealed.newest is None or sealed.newest.size != frontier.size):
        sealed.say("there are entries that no root stands for", frontier.size)
    if key is not None and sealed.newest is not None and sealed.newest.key != key.id:
        sealed.say(f"the newest root is signed with the key {sealed.newest.key}, and the site's own is {key.id}")
    if key is not None and keys.get(key.id, key.public) != key.public:
        sealed.say("the public part of the site's key is another one here")
    return sealed


def _entry(row: sa.Row[tuple[object, ...]]) -> SiteLogEntry | None:
    try:
        entry = SiteLogEntry.model_validate_json(row.body)
    except ValueError:
        return None
    return entry if (entry.kind, entry.key, entry.seq) == (row.kind, row.name, row.seq) else None


def _take(sealed: Sealed, entry: SiteLogEntry, named: dict[str, str], newest: Root | None) -> None:
    if entry.kind == KEY:
        if newest is not None and not entry.words.endswith(newest.seal().printed()):
            sealed.say(f"the key {entry.key} does not say on which root it goes on")
        named[entry.key] = entry.digest
    elif entry.seq is None:
        sealed.states.setdefault(entry.kind, {})[entry.key] = entry.digest
    else:
        sealed.heads.setdefault(entry.kind, {}).setdefault(entry.key, {})[entry.seq] = entry.digest


def _root(
    sealed: Sealed, row: sa.Row[tuple[object, ...]], frontier: Frontier, keys: dict[str, str], named: dict[str, str]
) -> Root | None:
    try:
        root = Root.model_validate_json(row.body)
        parts = [bytes.fromhex(part) for part in json.loads(row.parts)]
    except (ValueError, TypeError):
        sealed.say("a root cannot be read", row.size)
        return sealed.newest
    if (root.size, root.root) != (frontier.size, frontier.root().hex()) or parts != frontier.parts:
        sealed.say("a root does not stand for the entries before it: one of them was changed", row.size)
    public = keys.get(root.key, "")
    if named.get(root.key) != public or not public or fingerprint(public) != root.key:
        sealed.say(f"nothing says that the key {root.key} may sign here", row.size)
    elif not signed(public, row.body, row.signature):
        sealed.say("the signature of a root is not that of its key", row.size)
    return root


def rows_changed(connection: sa.Connection, sealed: Sealed, key: SiteKey | None) -> Iterator[Alteration]:
    """Yield every row of a register that is not as it was taken in, or noted to be taken in.

    Args:
        connection: where.
        sealed: what was taken in.
        key: the site's key, without which nobody can tell who wrote a note.
    """
    states = {kind: dict(sealed.states.get(kind, {})) for kind in RECORDED}
    for note in connection.execute(sa.select(t.site_pending).order_by(t.site_pending.c.id)):
        text = vouched_text(note.kind, note.name, note.digest)
        if key is not None and note.vouched != key.vouch(text):
            yield Alteration(_LOG, None, f"the note on {note.kind} {note.name} was written by no program of this site")
        else:
            states.setdefault(note.kind, {})[note.name] = note.digest
    for kind in RECORDED:
        known = states[kind]
        for row in connection.execute(sa.select(t.metadata.tables[kind])).mappings():
            name = name_of(kind, row)
            was = known.pop(name, None)
            if was is None:
                yield Alteration(_called(kind, name), None, "it was written by no program of this site")
            elif was != digest_of(kind, row):
                yield Alteration(_called(kind, name), None, "it is not as it was written")
        for name in sorted(known):
            yield Alteration(_called(kind, name), None, "it is missing")


def heads_missing(sealed: Sealed, kind: str, there: set[str]) -> Iterator[Alteration]:
    """Yield the logs that were taken in and are not there any more."""
    for log_id in sorted(set(sealed.heads.get(HEAD.format(kind), {})) - there):
        yield Alteration(f"{kind} {log_id}", None, "it is missing with all its events")


def _called(kind: str, name: str) -> str:
    short = name[:12] if len(name) == 64 else name
    return f"{'the row of ' if kind in LOGS else ''}{kind.replace('_', ' ')} {short}"
