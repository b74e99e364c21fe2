"""What the application does: one function per act, for the web, the command line and the demo alike."""
