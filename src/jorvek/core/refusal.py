"""The one way in which the core says no."""

from __future__ import annotations

from enum import StrEnum
from typing import Final, Literal, TypeAlias, get_args


class RefusalKind(StrEnum):
    """What sort of no it is; whoever carries it to a person answers by this alone."""

    MISSING = "missing"
    CONFLICT = "conflict"
    FORBIDDEN = "forbidden"
    UNFIT = "unfit"
    ASKED = "asked"
    TOO_SOON = "too_soon"
    TOO_LARGE = "too_large"
    DAMAGED = "damaged"


Missing: TypeAlias = Literal[
    "no_backup",
    "no_such_cell",
    "no_such_claim",
    "no_such_door",
    "door_not_said",
    "door_not_open",
    "door_open",
    "no_such_engine",
    "no_such_entry",
    "no_such_fastener",
    "no_such_joint",
    "no_such_overhaul",
    "no_such_person",
    "no_such_photo",
    "not_of_a_sheet",
    "no_such_point",
    "no_such_procedure",
    "no_such_question",
    "no_such_reading",
    "no_such_run",
    "no_such_sheet",
    "no_such_tool",
    "no_such_trouble",
]
"""What was named is not there."""

Conflict: TypeAlias = Literal[
    "access_gate",
    "access_own",
    "access_relied_on",
    "access_rule",
    "access_under_way",
    "access_unknown",
    "aged",
    "already_yours",
    "anothers_lock",
    "cell_taken",
    "conditions_unknown",
    "engine_known",
    "engine_taken",
    "file_exists",
    "no_room_for_file",
    "follows_claim",
    "followed_up",
    "follow_up_under_way",
    "not_silent",
    "not_closed_yet",
    "stop_made",
    "stop_before_its_turn",
    "deflection_outside",
    "gear_freed",
    "gear_not_locked",
    "hold_not_over",
    "not_stood",
    "id_reused",
    "inside_already",
    "attends_oneself",
    "attendant_inside",
    "attends_somebody",
    "attends_elsewhere",
    "attendant_works",
    "attending_now",
    "in_doubt",
    "not_clear",
    "not_seen",
    "own_lock_first",
    "nothing_told",
    "isolated_already",
    "isolation_relied_on",
    "joint_taken",
    "let_down_first",
    "metal_not_ready",
    "moment_gone",
    "name_taken",
    "never_accepted",
    "never_left_out",
    "never_lifted",
    "no_reason_owed",
    "not_a_draft",
    "not_a_matter_of_turn",
    "not_approved",
    "not_complete",
    "not_empty",
    "not_isolated",
    "not_printed",
    "not_standing",
    "no_site_log",
    "not_sealed",
    "not_to_be_struck",
    "not_yet",
    "not_for_engine",
    "no_room_beside",
    "nothing_aged",
    "nothing_owed",
    "nothing_to_follow",
    "nothing_to_accept",
    "nothing_to_redo",
    "nothing_to_reject",
    "last_chief",
    "nut_stuck",
    "overhaul_closed",
    "overhaul_not_done",
    "paper_overtaken",
    "told_two_ways",
    "crankcase_open",
    "hot_work_there",
    "part_taken",
    "person_inside",
    "piece_rejected",
    "replaced_elsewhere",
    "restored_before_its_turn",
    "revision_known",
    "revision_taken",
    "run_closed",
    "run_paused",
    "scope_changed",
    "tables_unknown",
    "sheet_known",
    "sweep_blocked",
    "tablet_silent",
    "test_under_way",
    "tool_at_work",
    "tool_elsewhere",
    "tool_not_withdrawn",
    "tool_withdrawn",
    "tool_known",
    "tool_on_stud",
    "withdrawn_already",
    "wrong_attempt",
]
"""It may be right in itself, but not as things stand."""

Forbidden: TypeAlias = Literal[
    "chief_by_chief",
    "departure_wants",
    "not_oneself",
    "not_your_point",
    "not_your_right",
    "not_your_signature",
    "no_writer",
    "writer_above",
    "own_procedure",
    "own_work",
    "not_theirs_to_take_off",
    "told_by_oneself",
    "pin_needed",
    "pin_wrong",
]
"""Not by this person."""

Unfit: TypeAlias = Literal[
    "E_DATA",
    "E_DIM",
    "E_DUP",
    "E_FINITE",
    "E_GEOM",
    "E_LEN",
    "E_MONO",
    "E_RANGE",
    "E_SCOPE",
    "E_TABLE",
    "E_TYPE",
    "E_UNIT",
    "above_full_scale",
    "air_not_good",
    "archive_empty",
    "archive_not_whole",
    "backup_too_new",
    "check_not_clean",
    "does_not_apply",
    "angle_slip",
    "figure_meant",
    "figure_unlikely",
    "beyond_the_stroke",
    "gas_there",
    "hours_run_back",
    "hours_too_many",
    "hours_when",
    "stop_when",
    "dead_centre_unknown",
    "no_geometry",
    "pins_at_odds",
    "no_seal",
    "pin_trivial",
    "permit_hours",
    "plan_name_twice",
    "plan_no_such_work",
    "plan_loop",
    "plan_no_hands",
    "plan_no_set",
    "plan_no_position",
    "plan_longer_than_a_shift",
    "plan_never_ends",
    "plan_too_many_orders",
    "plan_rule_broken",
    "plan_nothing_left",
    "plan_no_such_set",
    "plan_pin_past",
    "plan_pin_shift",
    "plan_pin_away",
    "plan_pins_chain",
    "plan_pins_share",
    "plan_pins_crank",
    "plan_pins_apart",
    "plan_pins_not_met",
    "plan_pin_missed",
    "plan_gone",
    "plan_none",
    "current_asked",
    "throws_missing",
    "dial_slipped",
    "no_such_stop",
    "mark_wanted",
    "movement_wanted",
    "name_form",
    "narrower_than_narrowest",
    "no_photo",
    "no_such_choice",
    "no_such_condition",
    "not_a_nut",
    "not_from_paper",
    "option_open",
    "options_at_odds",
    "order_rule_count",
    "order_rule_group",
    "order_rule_source",
    "out_of_physical_range",
    "over_the_ceiling",
    "pin_form",
    "readings_at_odds",
    "sheet_not_clean",
    "thousands",
    "too_many_bites",
    "tool_accuracy",
    "tool_class",
    "tool_not_capable",
    "tool_out_of_date",
    "tool_pieces",
    "tool_range",
    "tool_resolution",
    "tool_scale",
    "variant_does_not_match",
    "variant_not_observed",
    "way_not_allowed",
    "words_owed",
    "words_wanted",
    "written_how",
    "written_when",
    "wrong_answer",
]
"""It cannot be right, whoever says it and whenever."""

Asked: TypeAlias = Literal[
    "angle_asked",
    "growth_asked",
    "growth_asked_meant",
    "length_asked",
    "length_asked_meant",
    "movement_asked",
    "slack_asked",
    "rung_asked",
    "rung_asked_meant",
    "size_asked",
    "size_asked_meant",
    "temperature_asked",
    "temperature_asked_meant",
]
"""Possible, but unlikely: whoever looks again may give it once more, and it stands."""

TooSoon: TypeAlias = Literal["busy", "pin_delay"]
"""The same again after a while."""

TooLarge: TypeAlias = Literal["archive_too_large", "photo_too_large"]
"""More than is taken."""

Damaged: TypeAlias = Literal["log_broken", "photo_altered"]
"""What is stored does not hold together: a fault of the house, never of whoever asked."""

RefusalCode: TypeAlias = Missing | Conflict | Forbidden | Unfit | Asked | TooSoon | TooLarge | Damaged

_CODES: Final = {
    RefusalKind.MISSING: Missing,
    RefusalKind.CONFLICT: Conflict,
    RefusalKind.FORBIDDEN: Forbidden,
    RefusalKind.UNFIT: Unfit,
    RefusalKind.ASKED: Asked,
    RefusalKind.TOO_SOON: TooSoon,
    RefusalKind.TOO_LARGE: TooLarge,
    RefusalKind.DAMAGED: Damaged,
}
KIND_OF: Final[dict[RefusalCode, RefusalKind]] = {
    code: kind for kind, codes in _CODES.items() for code in get_args(codes)
}
"""Every refusal there is, with its kind."""


class Refusal(ValueError):
    """Something asked of the core that it will not do.

    ``code`` names an entry under ``refusal`` in the message catalogue; ``params`` fill that
    entry in; ``kind`` says what sort of no it is. Nothing has been changed when a refusal is raised.
    """

    def __init__(self, code: RefusalCode, **params: str | int | float | None) -> None:
        self.code: RefusalCode = code
        self.params = params
        super().__init__(f"{code} {params}" if params else code)

    @property
    def kind(self) -> RefusalKind:
        """What sort of no it is."""
        return KIND_OF[self.code]
