"""An empty route that takes and validates the same body and returns ready-made bytes: what HTTP itself costs here.

``python -m bench.peer PORT FILE``; FILE holds the bytes, compressed as the real answer is.
"""

from __future__ import annotations

import sys
from pathlib import Path
from uuid import UUID

import uvicorn
from fastapi import FastAPI, Response

from jorvek.api.runs import CommandEnvelope

app = FastAPI()
READY = Path(sys.argv[2]).read_bytes() if len(sys.argv) > 2 else b""


@app.post("/api/runs/{run_id}/commands")
def command(run_id: UUID, body: CommandEnvelope) -> Response:
    """Answer with what is ready."""
    return Response(READY, media_type="application/json", headers={"Content-Encoding": "gzip"})


if __name__ == "__main__":
    uvicorn.run(app, host="127.0.0.1", port=int(sys.argv[1]), log_level="error", access_log=False)
