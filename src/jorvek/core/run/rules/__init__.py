"""The rules of one joint's work: what may be done now, what an answer is worth, what opens again."""
