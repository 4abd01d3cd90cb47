# Feeds what happened to the programs and prints what they do. For computers, not for boards.
import sys

from @FILE@ import @NAME@, Rig


def number(v, unit):
    return "" if v != v else " %.6g%s" % (v + 0.0, " " + unit if unit else "")


class Hands:
    told_at = -1

    def read(self, sensor):
        return None

    def micros(self):
        return 0

    def receive(self):
        return None

    def when(self):
        if self.rig.now != self.told_at:
            self.told_at = self.rig.now
            print("at %d" % self.told_at)

    def act(self, o):
        self.when()
        said = "do %s %s" % ("display" if o.device < 0 else @NAME@.devices[o.device], o.verb)
        said += number(o.value, o.unit) + number(o.amount, o.amount_unit)
        if o.seconds > 0:
            said += " for %.6g s" % o.seconds
        print(said + (" " + o.words if o.words else ""))

    def send(self, message):
        self.when()
        print("tell %s %s%s" % (message[0], message[1], "".join([number(v, "") for v in message[2]])))


def begins(line, names):
    # Names have blanks in them: the longest one that the line begins with.
    best = -1
    for i in range(len(names)):
        if (line + " ").startswith(names[i] + " ") and (best < 0 or len(names[i]) >= len(names[best])):
            best = i
    return best, line[len(names[best]) + 1 :] if best >= 0 else line


def numbers(words):
    found = []
    for w in words.split():
        try:
            found.append(float(w))
        except ValueError:
            break
    return found


def happens(rig, line, states):
    what, _, rest = line.partition(" ")
    if what == "pass":
        # One thing after the other, so that no state is passed over.
        while rig.runs() and rig.next_due() <= int(rest):
            rig.let_pass(rig.next_due())
            states()
        rig.let_pass(int(rest))
    elif what == "seed":
        rig.begin(int(rest))
    elif what == "at":
        rig.at(int(rest))
    elif what == "r":
        time, _, rest = rest.partition(" ")
        rig.at(int(time))
        s, rest = begins(rest, @NAME@.sensors)
        if s < 0:
            return True  # a sensor that no sentence asks for
        if rest == "-":
            rig.reads(s, None)
        elif rest == "lost":
            rig.reads(s, float("nan"))
        else:
            found = numbers(rest)[: @NAME@.widths[s]]
            if not found:
                rig.sees(s, rest)
            else:
                rig.reads(s, found[0] if len(found) == 1 else tuple(found))
    elif what == "tell":
        sender, rest = begins(rest, @NAME@.names)
        text, rest = begins(rest, @NAME@.texts)
        if text >= 0:
            rig.hears(@NAME@.names[sender] if sender >= 0 else "", @NAME@.texts[text], numbers(rest)[:16])
    elif what in ("done", "stalls", "moved") or line.startswith("gives up "):
        if what == "gives":
            rest = rest[len("up ") :]
        d, rest = begins(rest, @NAME@.devices)
        if d < 0:
            return True
        if what == "done":
            rig.done(d)
        elif what == "stalls":
            rig.stalls(d)
        elif what == "gives":
            rig.gives_up(d)
        else:
            found = numbers(rest) + [0.0, 0.0]
            rig.moved(d, found[0], found[1])
    else:
        return False
    return True


def main():
    hands = Hands()
    rig = Rig(@NAME@, hands)
    hands.rig = rig
    before = [None] * len(@NAME@.programs)

    def states():
        for i in range(len(before)):
            now = "+".join(rig.states(i))
            if now != before[i]:
                before[i] = now
                hands.when()
                print("state %d %s %s" % (rig.now, @NAME@.names[i], now))

    rig.begin()
    states()
    for line in sys.stdin:
        if not rig.runs():
            break
        line = line.rstrip("\r\n")
        if line == "" or line[0] == "#":
            continue
        if not happens(rig, line, states):
            print("not understood: " + line, file=sys.stderr)
        states()
    print("goes on" if rig.runs() else "ended" if rig.fault is None else "fault")


main()
