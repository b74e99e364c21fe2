"""The engine as a whole: what joins the runs on its joints together."""
