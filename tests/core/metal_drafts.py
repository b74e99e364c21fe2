"""What cannot be done in the metal: wrong drafts of shipped procedures, each with what is found and where."""

from __future__ import annotations

from tests.core.drafts import GONE, Change, Data, also, change, drop, insert, move

HEAD, LAND, LOOSE = (f"tarnholt-7l34-head-{part}" for part in ("tighten", "land", "loosen"))
MAIN, MAINS = "tarnholt-7l34-main-tighten", "tarnholt-7l34-main-loosen"
ROD, LINER, DRAW = "tarnholt-7l34-rod-tighten", "tarnholt-7l34-liner-fit", "tarnholt-7l34-liner-draw"
VEE, COVER = "corvane-v10-main-tighten", "ulvane-5x46-cover-tighten"
V10, COVERS, BEAMS = "corvane-v10-head-tighten", "ulvane-5x46-cover-loosen", "ulvane-5x46-main-loosen"
CROSSHEAD, CRANKPIN, BEAM = (f"ulvane-5x46-{part}-tighten" for part in ("crosshead", "crankpin", "main"))

BENCH_BEFORE_ROLLING = move("shells", "lower")
TWO = {"kind": "two_person", "title": "Two of them", "first": "Lifts", "second": "Guides", "call": "Up", "answer": "Up"}
CAP_OFF = {**TWO, "touches": ["cap"], "does": "take_off"}
TWICE_OFF = also(insert("cap-on", id="once", **CAP_OFF), insert("once", id="again", **CAP_OFF))
IN_WORDS = insert("oil", id="words", touches=["upper-shell"], **TWO)
BORES = {"measure": "diameter_clearance", "points": ["middle"], "limits": {"lower": "0.18 mm", "upper": "0.34 mm"}}
LOCKED_AFTER = also(change(("@chief-sees.covers", ["second"])), move("lock", "chief-sees"))
BEAM_NOBODY_KNOWS = also(move("beam", "free"), change(("@pairs.touches", ["cap", "beam"]), ("@pairs.does", "unknown")))
SIGNS = {"id": "signs", "text": "Signs off", "isolates": "signs"}
PEOPLE = {"id": "people", "text": "Everybody out", "isolates": "people"}


def unnamed(data: Data) -> None:
    """Take every word of parts out of a document, as it was written before there were any."""
    for field in ("parts", "from", "leaves"):
        data.pop(field)
    for step in data["steps"]:
        for field in ("touches", "does"):
            step.pop(field, None)


METAL: list[tuple[str, str, Change, str]] = [
    # Faces and what lies on them.
    ("face_covered", MAIN, move("oil", "jack-up"), "@oil"),
    ("face_covered", MAIN, move("oil", "shells"), "@oil"),
    ("face_covered", LAND, move("faces", "land"), "@faces"),
    ("face_covered", VEE, move("strip-laid", "trial-cap"), "@strip-laid"),
    ("left_between", ROD, drop("protector-off"), "@in"),
    ("left_between", LAND, drop("covers"), "@land"),
    ("part_under", DRAW, change(("parts.2.starts", GONE)), "@hoist"),
    ("part_under", DRAW, change(("parts.2.starts", GONE)), "@bore"),
    ("part_under", DRAW, change(("parts.3.starts", GONE)), "@bore"),
    ("part_under", MAINS, move("roll", "jack-ports"), "@roll"),
    ("no_seat", MAIN, drop("shells"), "@jack-up"),
    ("closed_without", ROD, drop("shell-before", "shell-after"), "@run-down"),
    ("clamps_nothing", MAIN, drop("jack-up"), "@run-down"),
    # Parts that are not where the step wants them.
    ("part_not_there", VEE, TWICE_OFF, "@again"),
    ("part_held", LOOSE, move("hook", "tools-off"), "@hook"),
    ("part_never_left", VEE, drop("trial-lift"), "@cap-on"),
    ("part_still_in", MAINS, BENCH_BEFORE_ROLLING, "@shells"),
    ("not_known", MAIN, IN_WORDS, "@shells"),
    ("leaves_otherwise", MAIN, change(("leaves", "open")), "@recheck"),
    ("left_in", CRANKPIN, drop("jacks-off"), "@jacks"),
    # What is measured, and with what.
    ("measured_out", LINER, move("dry-height", "dry-out"), "@dry-height"),
    ("not_measured_since", LINER, drop("height"), "@home"),
    ("gauge_cannot_reach", MAIN, change(("@clearance.gate", BORES), ("@clearance.touches", ["journal"])), "@clearance"),
    ("strip_never_laid", VEE, drop("strip-laid"), "@strip"),
    ("strip_never_laid", VEE, move("strip", "strip-gone"), "@strip"),
    ("strip_loose", VEE, drop("trial-snug", "trial-full", "trial-turn"), "@strip"),
    ("strip_under_cap", VEE, move("strip", "cap-off"), "@strip"),
    ("instrument_out_of_range", HEAD, change(("@tools.tools.3.range_at_least", "500 mm")), "@tools.tools.3"),
    ("instrument_out_of_range", HEAD, change(("@tools.tools.3.range_at_most", "600 mm")), "@tools.tools.3"),
    ("instrument_out_of_range", HEAD, change(("@tools.tools.2.range_at_least", "69 mm")), "@tools.tools.2"),
    ("far_end_not_reached", HEAD, change(("fasteners.0.bored", GONE)), "@length-after.instrument"),
    ("far_end_not_reached", LOOSE, change(("fasteners.0.bored", GONE)), "@length.instrument"),
    ("reuse_not_measured", VEE, drop("bolts"), "fasteners.0.reuse"),
    # The crank.
    ("sweep_not_clear", MAIN, move("jack-off", "free"), "@free"),
    ("sweep_not_clear", BEAM, move("beam", "free"), "@free"),
    ("sweep_not_clear", CROSSHEAD, move("tackles", "free"), "@free"),
    ("sweep_not_clear", ROD, move("hook-off", "tool-position"), "@tool-position"),
    ("sweep_not_clear", MAINS, change(("@roll.allows", GONE)), "@roll"),
    (
        "sweep_not_clear",
        BEAM,
        BEAM_NOBODY_KNOWS,
        "@free",
    ),
    ("left_between", LAND, change(("@covers.does", "unknown")), "@land"),
    ("people_not_asked", MAIN, change(("@free.people_out", GONE)), "@free"),
    ("people_not_asked", MAINS, change(("@roll.people_out", False)), "@roll"),
    ("proof_not_there", ROD, change(("@position.proof_on", "piston")), "@position"),
    ("never_turned", MAIN, drop("free"), "@exhaust-first"),
    # Nuts, tools and oil.
    ("not_run_down", HEAD, drop("run-down"), "@first"),
    ("let_go_before_jack", MAINS, move("jack", "main-tools-off"), "@main-free"),
    ("hoses_before_ceiling", HEAD, move("ceiling", "vent"), "@vent"),
    ("no_oil", MAIN, drop("main-vent"), "@main-first"),
    ("off_under_pressure", HEAD, move("tools-off", "second"), "@tools-off"),
    ("puller_not_proved", MAIN, drop("cam-thread-above"), "@cam-seat"),
    ("too_few_tools", COVER, change(("@eight-tools.tools.0.count", 4)), "@all-seat"),
    ("counted_otherwise", CRANKPIN, change(("@jacks-off.items", [{"id": "fore", "text": "Jack F"}])), "@jacks-off"),
    ("pair_not_read", MAIN, drop("pairs"), "@clean"),
    ("left_unlocked", CROSSHEAD, drop("lock"), "@second"),
    ("out_already", VEE, move("back", "bolts"), "@back"),
    ("under_the_tool", MAINS, move("main-tools-off", "main-off"), "@main-off"),
    ("under_the_tool", HEAD, move("tools-off", "length-after"), "@length-after"),
    ("no_tool_on", COVERS, drop("even-seat"), "@even-free"),
    ("tool_not_drawn", COVER, drop("four-tools"), "@odd-seat.tools"),
    ("released_at_once", V10, drop("settle-slack"), "@settle"),
    ("torque_after_angle", VEE, move("full-snug", "turn"), "@full-snug"),
    ("ways_end_apart", V10, drop("turn-gauge"), "fasteners.0"),
    # What carries, what hangs, and where parts are left.
    ("not_carried", ROD, move("hook-on", "hoist"), "@hoist"),
    ("not_carried", BEAMS, drop("beam", "beam-off"), "@lift"),
    ("would_fall", CROSSHEAD, move("tackles", "grease"), "@tackles"),
    ("not_on_hook", LAND, drop("hook"), "@land"),
    ("left_hanging", LOOSE, drop("land-head"), "@faces"),
    ("not_laid_out", MAINS, drop("shells"), "@look"),
    ("not_held_down", LINER, drop("hold-down"), "@lead-sees"),
    ("left_turned_over", VEE, drop("upright"), "@feel-over"),
    # Clean, oiled, measured, cold, signed.
    ("not_clean", COVER, drop("clean"), "@land"),
    ("ring_dry", LINER, drop("soap"), "@home"),
    ("closed_dry", ROD, drop("oil"), "@run-down"),
    ("clearance_not_measured", MAIN, drop("clearance"), "@exhaust-first"),
    ("freed_not_measured", MAINS, drop("main-length"), "fasteners.0.reuse"),
    ("stretch_not_taken", HEAD, drop("length-after"), "@length-before"),
    ("no_wait_after_shutdown", DRAW, drop("shutdown"), "@make-safe"),
    ("not_known_cold", MAINS, drop("cold"), "@side-free"),
    ("crank_not_placed", MAINS, drop("position"), "@side-free"),
    ("crank_not_placed", ROD, drop("position", "tool-position"), "@first"),
    ("deflection_not_taken", MAIN, drop("webs"), "@exhaust-first"),
    ("deflection_not_taken", MAINS, move("webs", "side-free"), "@side-free"),
    ("nobody_signs", MAIN, drop("chief-sees"), "@exhaust-first"),
    # Doors, isolation, signatures, and what only the author knows.
    ("door_before_wait", MAINS, drop("shutdown"), "@door"),
    ("after_isolation_lifted", MAIN, move("free", "restore"), "@free"),
    (
        "after_signature",
        CROSSHEAD,
        also(change(("@chief-sees.covers", ["second"])), move("lock", "chief-sees")),
        "@lock",
    ),
    ("not_played", CRANKPIN, unnamed, "@shell"),
    ("stated_order", MAINS, move("sensor", "jack"), "@sensor"),
    ("isolation_missing", MAINS, change(("@make-safe.items", [SIGNS])), "@make-safe"),
    ("given_back_out_of_order", MAIN, change(("@restore.items", [SIGNS, PEOPLE])), "@restore.items.1"),
    ("given_back_unproved", MAIN, change(("@restore.items", [PEOPLE, SIGNS])), "@restore"),
]
