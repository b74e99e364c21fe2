"""The simulated joint: what the metal really does, apart from what anybody reads or reckons."""
