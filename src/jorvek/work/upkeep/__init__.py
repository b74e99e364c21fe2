"""Work that is due later, and what a server does by itself."""
