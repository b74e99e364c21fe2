"""Plans of an overhaul: asked for, looked for beside the server, followed and shown."""
