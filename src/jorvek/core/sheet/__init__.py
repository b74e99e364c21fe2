"""The engine sheet: what joins the joints of an engine together, as data; its default by layout; its check."""
