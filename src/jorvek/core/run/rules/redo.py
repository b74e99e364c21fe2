"""What must be done again, by physics, when one thing is done again."""

from __future__ import annotations

from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.kind import Redo
from jorvek.core.procedure.steps import AngleStep
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.events import Verdict
from jorvek.core.run.log.state import RunState


def redo_scope(state: RunState, key: str) -> tuple[str, ...]:
    """Return the filled cells that open again when the work of one cell is done again.

    Under pressure a nut and its feeler can be repeated alone; once the pressure is off, the
    tools must go back on and the joint is pulled again from the seating of the tools. A
    length is read again together with its temperature.

    Args:
        state: the run as it stands.
        key: a filled cell.

    Returns:
        Keys in working order, with everything whose judgement rests on them.

    Raises:
        Refusal: ``no_such_cell``; ``nothing_to_redo`` when the cell is empty; ``moment_gone``
            for a free length once the studs have been loaded.
    """
    cell = state.definition.by_key.get(key)
    if cell is None:
        raise Refusal("no_such_cell", cell=key)
    if state.live(key) is None:
        raise Refusal("nothing_to_redo", cell=key)
    wanted = _with_beginnings(state, _group(state, cell) | _declared(state, cell))
    for member in tuple(wanted):
        wanted |= set(state.definition.users[member])
    return tuple(c.key for c in state.definition.cells if c.key in wanted and state.live(c.key) is not None)


def _group(state: RunState, cell: Cell) -> set[str]:
    if cell.traits.moment == "before_load":
        demand_moment(state, cell)
    if cell.what in (CellItem.STANDARD_BEFORE, CellItem.STANDARD_AFTER):
        # A gauge that has moved has moved among all lengths of the set.
        return _same(state, cell, fastener=False)
    match cell.traits.redo:
        case Redo.FASTENER:
            return _same(state, cell, fastener=True)
        case Redo.PULL:
            return _hydraulic(state, cell)
        case Redo.TURN:
            return _turned(state, cell)
        case Redo.LOADED:
            # Turning the crank again asks again whether everybody is out.
            asked = {c.key for c in state.definition.cells if c.step == cell.step}
            return asked | _with_what_they_begin_from(state, cell)
        case Redo.STEP:
            # What was lifted, cleaned under or zeroed anew takes along all that was read with it.
            return _same(state, cell, fastener=False)
        case Redo.ALONE:
            return {cell.key}


def _declared(state: RunState, cell: Cell) -> set[str]:
    """Return what the document says is done again together with a cell, from the step that it names on.

    It comes on top of what physics takes along; pulls and turns, of which it is the whole, are not added to.
    """
    if cell.traits.redo is Redo.TURN and cell.fastener is not None:
        return set()
    # While the pressure is up nothing has been slackened yet.
    if cell.traits.evidence == "pressure" and not _released(state, cell):
        return set()
    groups = [group for group in state.definition.procedure.redo if cell.step_id in group.steps]
    found: set[str] = set()
    for group in groups:
        inside = {*group.steps, group.from_step}
        mine = [c for c in state.definition.cells if c.cycle == cell.cycle and c.step_id in inside]
        start = min((state.definition.place_of(c.key) for c in mine if c.step_id == group.from_step), default=None)
        alone = () if cell.fastener is None else (cell.fastener,)
        names = {None, *(group.together or alone)}
        found |= {
            c.key
            for c in mine
            if start is not None
            and state.definition.place_of(c.key) >= start
            # A free length cannot be read of a stud that has been loaded.
            and c.traits.moment != "before_load"
            and (c.fastener in names or not (group.together or alone))
        }
    return found


def loaded_since_free(state: RunState, turned: Cell) -> tuple[str, ...]:
    """Return the standing calls that loaded a fastener since the crank was last turned through, in working order."""
    cells = state.definition.cells[: state.definition.place_of(turned.key)]
    before = max((k for k, c in enumerate(cells) if _same_call(c, turned) and state.worked(c.key)), default=-1)
    loads = (c for c in cells[before + 1 :] if c.traits.load == "adds" and c.first_loads)
    return tuple(c.key for c in loads if state.worked(c.key))


def put_together_anew(state: RunState, turned: Cell) -> set[str]:
    """Return what is done again when a crank is tight with every fastener at its last stage; nothing before that.

    Then the part comes off: the backs of the shells, their nip, its number and the journal are looked at, and all
    stages begin from slack. That is everything from the first step on the part that the fasteners hold.
    """
    place, made = state.definition.place_of(turned.key), state.definition
    loads = [k for k, c in enumerate(made.cells) if c.traits.load == "adds" and c.first_loads]
    if not loads or loads[-1] > place:
        return set()
    groups = {made.groups[name].id for k in loads for name in made.went_round[made.cells[k].step]}
    held = {part.id for part in made.procedure.parts if groups & set(part.held_by)}
    held |= {part.id for part in made.procedure.parts if part.goes_with in held}
    on_it = (k for k, c in enumerate(made.cells) if held & set(made.steps_by_id[c.step_id].touches))
    first = next(on_it, place)
    # What was drawn stays drawn.
    return {c.key for c in made.cells[first : place + 1] if c.ask is not InputType.TOOL} if first < loads[-1] else set()


def _same_call(cell: Cell, turned: Cell) -> bool:
    return (cell.kind, cell.item) == (turned.kind, turned.item)


def _with_what_they_begin_from(state: RunState, turned: Cell) -> set[str]:
    """A tight spot puts the stages before it in doubt; where it was free, the crank alone is turned again."""
    live = state.live(turned.key)
    if live is None or live.judgement.verdict is not Verdict.OUT_OF_BAND:
        return set()
    found = put_together_anew(state, turned)
    for key in loaded_since_free(state, turned):
        cell = state.definition.by_key[key]
        found |= {key} if cell.traits.redo is Redo.TURN else _group(state, cell)
    return found


def _turned(state: RunState, cell: Cell) -> set[str]:
    """Return what a pull or a turn done again takes with it.

    What the procedure declares goes first. Without that, a fastener that was turned by angle
    begins again at its first stage of the cycle; before that, the one pull is repeated.
    """
    if cell.fastener is None:
        return _same(state, cell, fastener=False)
    cycle = [c for c in state.definition.cells if c.traits.redo is Redo.TURN and c.cycle == cell.cycle]
    declared = next((r for r in state.definition.procedure.redo if cell.step_id in r.steps), None)
    if declared is not None:
        names = declared.together or (cell.fastener,)
        start = min(state.definition.place_of(c.key) for c in cycle if c.step_id == declared.from_step)
        inside = {*declared.steps, declared.from_step}
        return {
            c.key
            for c in cycle
            if c.fastener in names and c.step_id in inside and state.definition.place_of(c.key) >= start
        }
    mine = [c for c in cycle if c.fastener == cell.fastener]
    angled = any(c.ask is InputType.TURN and state.live(c.key) is not None for c in mine)
    return {c.key for c in mine} if angled else {cell.key}


def _with_beginnings(state: RunState, wanted: set[str]) -> set[str]:
    """Return the scope with the setting of the wrench and the start marks that its pulls and turns begin from.

    A wrench that was set to another stage since is set again; a start mark is good only for the pull after which
    it was made.
    """
    made = [state.definition.by_key[key] for key in wanted if state.live(key) is not None]
    pulls = [c for c in made if c.ask in (InputType.PULL, InputType.TURN)]
    begins = [c for c in state.definition.cells if c.fastener is None and state.live(c.key) is not None]
    return wanted | {c.key for c in begins if _set_elsewhere(state, c, pulls) or _marked_before(state, c, pulls)}


def _set_elsewhere(state: RunState, setting: Cell, pulls: list[Cell]) -> bool:
    """Tell whether a wrench stands at another setting by the time that one of the pulls is made again."""
    made = state.live(setting.key)
    if setting.rule is not Rule.SETTING or made is None or not any(setting.key in c.needs for c in pulls):
        return False
    steps = {c.step for c in pulls if c.tool_role == setting.tool_role}
    others = [c for c in state.definition.cells if c.rule is Rule.SETTING and c.tool_role == setting.tool_role]
    since = (state.live(c.key) for c in others if c.step != setting.step)
    return len(steps) > 1 or any(a.seq > made.seq for a in since if a is not None)


def _marked_before(state: RunState, mark: Cell, pulls: list[Cell]) -> bool:
    """Tell whether start marks were made after a pull that is made again."""
    step = state.definition.steps_by_id[mark.step_id]
    if not isinstance(step, AngleStep) or mark.ask is not InputType.TICK:
        return False
    place = state.definition.place_of(mark.key)
    turned = {c.fastener for c in state.definition.by_step[mark.step] if c.fastener is not None}
    before = (c for c in pulls if c.fastener in turned and c.cycle == mark.cycle)
    return any(state.definition.place_of(c.key) < place for c in before)


def demand_moment(state: RunState, cell: Cell) -> None:
    """Refuse to take back a reading whose moment has passed.

    Raises:
        Refusal: ``moment_gone``.
    """
    if cell.gone_after is not None and state.live(cell.gone_after) is not None:
        raise Refusal("moment_gone", cell=cell.key, after=cell.gone_after)


def _same(state: RunState, cell: Cell, *, fastener: bool) -> set[str]:
    return {
        c.key for c in state.definition.cells if c.step == cell.step and (not fastener or c.fastener == cell.fastener)
    }


def _hydraulic(state: RunState, cell: Cell) -> set[str]:
    if cell.traits.evidence == "pressure" and not _released(state, cell):
        alone = cell.what in (CellItem.NUT, CellItem.FEELER)
        lowest = {c.key for c in state.definition.cells if c.step == cell.step and c.what is CellItem.LOWEST}
        return _same(state, cell, fastener=True) | lowest if alone else _same(state, cell, fastener=False)
    block = _from_seating(state, cell)
    loads = (c for c in state.definition.cells if c.what in (CellItem.RAISE, CellItem.FREE) and c.quantity is not None)
    pulled = any(c.key in block and state.live(c.key) for c in loads)
    return block if pulled else {cell.key}


def _released(state: RunState, cell: Cell) -> bool:
    return cell.gone_after is not None and state.live(cell.gone_after) is not None


def _from_seating(state: RunState, cell: Cell) -> set[str]:
    """Return the pull from the seating of its tools on, with every later pull that was set against it."""
    cells = state.definition.cells
    place = state.definition.place_of(cell.key)
    seats = [k for k, c in enumerate(cells) if c.traits.tool == "on" and k <= place]
    # No tool was seated before this place, so nothing goes with it.
    first = next((k for k in seats if cells[k].step == cells[seats[-1]].step), place) if seats else place
    return {c.key for c in cells[first:] if c.traits.after_pull}
