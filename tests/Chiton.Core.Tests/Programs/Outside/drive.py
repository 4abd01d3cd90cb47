# Feeds what happened to modules of programs and says what they did: a line for each thing that happened.
import importlib.util
import json
import struct
import sys


def number(v):
    v = float(v)
    if v != v:
        return "nan"
    return str(struct.unpack("<q", struct.pack("<d", v + 0.0))[0])


class Board:
    def __init__(self):
        self.said = []

    def command(self, now, unit, activity, device, value, second, lasts):
        self.said.append("c%d/%d/%d/%d/%s/%s/%d" % (now, unit, activity, device, number(value), number(second), lasts))

    def tell(self, now, program, text, values):
        self.said.append("m%d/%d/%s" % (program, text, ",".join([number(v) for v in values])))

    def took(self, now, step):
        self.said.append("t%d/%d" % (now, step))


def line(m, board):
    out = "%d %s %s %s | %s | %s" % (
        m.now,
        "fault" if m.fault is not None else "-",
        "end" if m.finished else "-",
        "+".join(m.states()),
        " ".join([number(v) for v in m.var]),
        " ".join(board.said),
    )
    board.said = []
    return out


def main(folder):
    jobs = json.load(open(folder + "/jobs.json"))
    with open(folder + "/python.txt", "w") as out:
        for job in jobs:
            spec = importlib.util.spec_from_file_location(job["name"], folder + "/" + job["name"] + ".py")
            module = importlib.util.module_from_spec(spec)
            spec.loader.exec_module(module)
            board = Board()
            m = module.Machine(module.Program, board)
            m.start()
            out.write("= " + job["name"] + "\n" + line(m, board) + "\n")
            for e in job["events"]:
                what, a = e[0], e[1:]
                if what == "pass":
                    m.pass_until(m.now + a[0])
                elif what == "told":
                    m.told(a[0], a[1], a[2])
                elif what == "zone":
                    m.see_zone(a[0], a[1])
                elif what == "read":
                    m.read(a[0], float(a[1]) if a[1] is not None else float("nan"))
                elif what == "sense":
                    m.sense(a[0], float(a[1]) if a[1] is not None else float("nan"))
                elif what == "sense_zone":
                    m.sense_zone(a[0], a[1])
                elif what == "silent":
                    m.silent(a[0])
                elif what == "ended":
                    m.ended(a[0])
                elif what == "gives_up":
                    m.gives_up(a[0])
                elif what == "stalled":
                    m.stalled(a[0])
                elif what == "moved":
                    m.moved(a[0], float(a[1]), float(a[2]))
                out.write(line(m, board) + "\n")


main(sys.argv[1])
