"""Run the simulated machine: a small server on loopback that prints its address and waits."""

from __future__ import annotations

import argparse
import json
import sys
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, urlsplit

from simulated_machine.machine import Machine

LARGEST = 20_000_000


class Handler(BaseHTTPRequestHandler):
    """POST /plan, /go, /stop; GET /events?after=N. JSON in, JSON out; 400 with a sentence for what is
    wrong."""

    machine = Machine()

    def do_POST(self) -> None:
        acts = {
            "/plan": self.machine.put_in,
            "/go": self.machine.go,
            "/stop": lambda _: self.machine.stop(),
        }
        act = acts.get(urlsplit(self.path).path)
        length = self.headers.get("Content-Length", "0")
        if act is None or not length.isdigit() or int(length) > LARGEST:
            self._answer(404, {"says": "There is nothing here."})
            return
        try:
            made = act(json.loads(self.rfile.read(int(length)) or b"{}"))
        except ValueError as error:
            self._answer(400, {"says": str(error)})
            return
        self._answer(200, {"legs": made} if made is not None else {})

    def do_GET(self) -> None:
        address = urlsplit(self.path)
        after = parse_qs(address.query).get("after", ["0"])[0]
        if address.path != "/events" or not after.isdigit() or len(after) > 9:
            self._answer(404, {"says": "There is nothing here."})
            return
        self._answer(200, self.machine.told(int(after)))

    def _answer(self, status: int, values: dict) -> None:
        body = json.dumps(values).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, format: str, *args) -> None:
        """Quiet."""


def main() -> int:
    """Serve until stopped."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, default=0)
    server = ThreadingHTTPServer(("127.0.0.1", parser.parse_args().port), Handler)
    print(f"http://127.0.0.1:{server.server_address[1]}", flush=True)
    try:
        server.serve_forever()
    except KeyboardInterrupt:
        return 0
    return 0


if __name__ == "__main__":
    sys.exit(main())
