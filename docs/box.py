"""A box of one's own: it speaks the line (docs/line.md) on 127.0.0.1:5190. Start it with: python3 box.py [PORT]"""
import random
import select
import socket
import sys
import time

NAME = "Seed trolley"
SENSORS = {"Tag eye": ("light", 10)}  # name: one word for what it is, and ms between readings
DEVICES = ["Trolley"]
STARTED = time.monotonic()


def read(sensor):
    """What a sensor reads now. Yours to fill in."""
    return round(random.gauss(40, 2))


def act(device, order):
    """Does what a device is told, as ['run', '60', '%']; says how long it takes in s, None where it goes on. Yours to fill in."""
    return float(order[order.index("for") + 1]) if "for" in order else None


def micros():
    return int((time.monotonic() - STARTED) * 1e6)


class Box:
    def __init__(self, desk):
        self.desk, self.wanted, self.ends, self.heard = desk, {}, [], b""
        self.hello()

    def say(self, line):
        self.desk.sendall((line + "\n").encode())

    def hello(self):
        self.say("chiton 1 %s stand-in" % NAME)
        for name, (kind, period) in SENSORS.items():
            self.say("have %s %s %g" % (name, kind, period))

    def answer(self, line):
        word, _, rest = line.partition(" ")
        if word == "?" and rest in ("", "there"):
            if rest == "":
                self.hello()
        elif word in ("tell", "quiet") and rest in SENSORS:
            if word == "tell":
                self.wanted[rest] = micros()
            else:
                self.wanted.pop(rest, None)
        elif word == "do" and any(rest.startswith(d + " ") for d in DEVICES):
            device = max((d for d in DEVICES if rest.startswith(d + " ")), key=len)
            lasts = act(device, rest[len(device) :].split())
            if lasts is not None:
                self.ends.append((micros() + lasts * 1e6, device))
        else:
            return self.say("no I do not know that.")
        self.say("ok")

    def go(self):
        while True:
            if select.select([self.desk], [], [], 0.005)[0]:
                came = self.desk.recv(4096)
                if not came:
                    return
                *lines, self.heard = (self.heard + came).split(b"\n")
                for line in lines:
                    self.answer(line.decode("utf-8", "replace").strip())
            for name, due in list(self.wanted.items()):
                if micros() >= due:
                    self.wanted[name] = due + SENSORS[name][1] * 1000
                    self.say("r %d %s %s" % (due, name, read(name)))
            for end in [e for e in self.ends if e[0] <= micros()]:
                self.ends.remove(end)
                self.say("done %s" % end[1])


def main():
    port = int(sys.argv[1]) if len(sys.argv) > 1 else 5190
    with socket.create_server(("127.0.0.1", port)) as listener:
        print("Join a real copy to 127.0.0.1:%d" % listener.getsockname()[1], flush=True)
        while True:
            desk, _ = listener.accept()
            try:
                with desk:
                    Box(desk).go()
            except OSError:
                print("The plug came out.", flush=True)


main()
