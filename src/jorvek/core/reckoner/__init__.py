"""The few sums a mechanic does away from a run. What they give is reckoned, never a target."""
