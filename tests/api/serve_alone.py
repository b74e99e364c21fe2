"""Serve the API on the database named in the environment, until killed."""

import os

import uvicorn

from jorvek.api.app import create_app
from jorvek.local.logs import structured_logs
from jorvek.store.database import Database
from jorvek.work.workshop import Workshop

if __name__ == "__main__":
    structured_logs()
    app = create_app(Workshop(Database(os.environ["JORVEK_DATABASE_URL"])))
    uvicorn.run(app, host="127.0.0.1", port=int(os.environ["JORVEK_PORT"]), log_level="warning")
