"""The engine as a whole: overhauls, its page, tools, surveys and the home screen."""
