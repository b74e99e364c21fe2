"""The site log: an append-only hash tree over everything whose past must show when it is changed."""
