# How a program is stepped: one thing that happens after the other, each to its end. Time is in microseconds since the start.
# Nothing here waits, and nothing here asks a clock: pass_until() says how late it is.

NAN = float("nan")
NEVER = 0x7FFFFFFFFFFFFFFF
NO_TAP = -(1 << 62)
TAP = 500000
TWICE = 600000
MOST_STEPS = 1000
MOST_ACTIONS = 100000
MOST_QUEUED = 100
MOST_VALUES = 16

# Kinds of nodes.
ATOMIC, COMPOUND, PARALLEL, FINAL, SHALLOW, DEEP = range(6)
# What sets a transition off.
LEVEL, EDGE, LEAVE, PRESS, STALL, GIVE_UP, TOLD, SILENCE, AFTER, EVERY, ALWAYS = range(11)
# What an activity is.
(
    THEN,
    TOGETHER,
    REPEAT,
    IF,
    SET,
    PUSH,
    TAKE,
    TELL,
    ZERO,
    TEACH,
    SHOW,
    LAMP_ON,
    LAMP_OFF,
    STOP,
    STOP_ALL,
    MOVE,
    ROUTINE,
) = range(17)
# Presses of a button.
PRESSED, RELEASED, TAPPED, TAPPED_TWICE, HELD = range(5)
# What happens.
(
    NOTHING,
    H_ZONE,
    H_READING,
    H_SENSED,
    H_PRESS,
    H_TIMER,
    H_ENDED,
    H_GAVE_UP,
    H_STALLED,
    H_TOLD,
    H_START,
) = range(11)
# How an activity stands.
IDLE, GOING, ENDED, DROPPED = range(4)


class Endless(Exception):
    pass


class TooMuch(Exception):
    pass


def holds(v):
    return v < 0 or v > 0


def micros(seconds):
    # What is no number counts as no time.
    if seconds != seconds:
        return 0
    return int(round(min(max(seconds, 0.0), 1e9) * 1e6))


def away(v):
    # Halves go away from zero.
    if v != v or v - v != 0:
        return v
    w = float(int(v))
    rest = v - w
    if rest >= 0.5:
        w += 1.0
    elif rest <= -0.5:
        w -= 1.0
    return w


def least(a, b):
    if a != a or b != b:
        return NAN
    return a if a < b else b


def most(a, b):
    if a != a or b != b:
        return NAN
    return a if a > b else b


def stick_share(angle, dead):
    if angle != angle or abs(angle) <= dead or dead >= 90.0:
        return 0.0
    part = min(1.0, (abs(angle) - dead) / (90.0 - dead))
    return part if angle > 0 else -part


class Active:
    """A set of few numbers, in the order in which they came; the last takes the place of one that goes."""

    def __init__(self, size):
        self.items = []
        self.place = [-1] * size

    def add(self, x):
        if self.place[x] < 0:
            self.place[x] = len(self.items)
            self.items.append(x)

    def remove(self, x):
        at = self.place[x]
        if at < 0:
            return
        self.place[x] = -1
        last = self.items.pop()
        if at == len(self.items):
            return
        self.items[at] = last
        self.place[last] = at

    def clear(self):
        for x in self.items:
            self.place[x] = -1
        self.items = []


class Follower:
    """The zone that one sentence holds: it changes once enough readings in a row point to the same other one."""

    def __init__(self, held=-1):
        self.held = held
        self.candidate = -1
        self.count = 0

    def copy(self):
        return Follower(self.held)

    def restart(self):
        self.candidate = -1
        self.count = 0

    def take_zone(self, zone, needed):
        if zone < 0 or zone == self.held:
            self.restart()
            return False
        self.count = self.count + 1 if zone == self.candidate else 1
        self.candidate = zone
        if self.count < needed:
            return False
        self.held = zone
        self.restart()
        return True

    def take_edge(self, scale, reading, needed):
        if self.held >= 0 or reading != reading:
            return self.take(scale, reading, needed)
        return self.take_zone(scale.first(reading), needed)

    def take(self, scale, reading, needed):
        if reading != reading:
            self.restart()
            return False
        if self.held < 0:
            self.held = scale.first(reading)
            return False
        return self.take_zone(scale.seen_from(self.held, reading), needed)


class Scale:
    """Zones by rising readings: between each two a threshold with half a band about it."""

    def __init__(self, zones, thresholds, bands, means):
        self.zones = zones
        self.thresholds = thresholds
        self.bands = bands
        self.means = means

    def first(self, reading):
        z = 0
        while z < len(self.thresholds) and reading > self.thresholds[z]:
            z += 1
        return z

    def seen_from(self, held, reading):
        z = held
        while z < len(self.thresholds) and reading > self.thresholds[z] + self.bands[z]:
            z += 1
        if z != held:
            return z
        while z > 0 and reading < self.thresholds[z - 1] - self.bands[z - 1]:
            z -= 1
        return z

    def band_near(self, value):
        best = 0
        for i in range(1, len(self.thresholds)):
            if abs(self.thresholds[i] - value) < abs(self.thresholds[best] - value):
                best = i
        return self.bands[best] if self.thresholds else 0.0

    def index(self, zone):
        for i in range(len(self.zones)):
            if self.zones[i] == zone:
                return i
        return -1


# ---- zones that are shown while it runs ----


def follow(anchors, at):
    if not anchors:
        return at
    if at <= anchors[0][0]:
        return at + anchors[0][1] - anchors[0][0]
    for i in range(1, len(anchors)):
        if at <= anchors[i][0]:
            b, n = anchors[i - 1]
            return n + (at - b) / (anchors[i][0] - b) * (anchors[i][1] - n)
    return at + anchors[-1][1] - anchors[-1][0]


def told_apart(zones, at, thresholds, bands):
    if len(zones) < 2:
        return None
    for i in range(len(thresholds)):
        low, high = thresholds[i] - bands[i], thresholds[i] + bands[i]
        if not at[i] < at[i + 1] or low < at[i] or high > at[i + 1]:
            return None
        if i > 0 and not thresholds[i] > thresholds[i - 1]:
            return None
    return Scale(zones, thresholds, bands, at)


def by_reading(z):
    return z[1]


def anew(known, taught, anchors):
    every = list(taught)
    if anchors is not None and known is not None:
        for i in range(len(known.zones)):
            if all([t[0] != known.zones[i] for t in taught]):
                every.append((known.zones[i], follow(anchors, known.means[i])))
    every = sorted(every, key=by_reading)
    band = None if known is None or not known.bands else max(known.bands)
    thresholds, bands = [], []
    for i in range(len(every) - 1):
        a, b = every[i][1], every[i + 1][1]
        thresholds.append((a + b) / 2)
        bands.append((b - a) / 8.0 if band is None else band)
    return told_apart([z[0] for z in every], [z[1] for z in every], thresholds, bands)


def taught_scale(known, taught):
    for t in taught:
        if t[1] - t[1] != 0:
            return None
    anchors = []
    if known is not None:
        for i in range(len(known.zones)):
            for t in taught:
                if t[0] == known.zones[i]:
                    anchors.append((known.means[i], t[1]))
    for i in range(1, len(anchors)):
        if not anchors[i][1] > anchors[i - 1][1]:
            return anew(known, taught, None) if len(anchors) == len(known.zones) else None
    if known is None or len(taught) > len(anchors):
        return anew(known, taught, anchors)
    return told_apart(
        known.zones,
        [follow(anchors, v) for v in known.means],
        [follow(anchors, v) for v in known.thresholds],
        known.bands,
    )


# ---- a program or a routine ----


class Unit:
    def __init__(self, m, u, index):
        self.m = m
        self.u = u
        self.index = index
        a, t, n = len(u.a_kind), len(u.t_kind), len(u.kind)
        self.active = False
        self.status = [IDLE] * a
        self.next = [0] * a
        self.rounds = [0] * a
        self.started_by = [-1] * a
        self.a_due = [NEVER] * a
        self.detached = [False] * a
        self.orphan = [False] * a
        self.last_value = [0.0] * a
        self.last_second = [0.0] * a
        self.t_due = [NEVER] * t
        self.spent = [False] * t
        self.counted = [0] * t
        self.edges = [None] * t
        self.edge_fired = [False] * t
        self.since = [0] * t
        self.edge_from = [0] * t
        self.edge_to = [0] * t
        self.entered_at = [0] * n
        self.timers = Active(t)
        self.ending = Active(a)
        self.watching = Active(t)
        self.lasting = []
        self.caller = -1
        self.caller_unit = -1
        self.changed = False
        # The chart: sets of nodes are whole numbers, a bit a node.
        self.on = 0
        self.running = False
        self.memory = [None] * n
        self.transient = 0

    def clear(self):
        self.active = False
        for i in range(len(self.status)):
            self.status[i] = IDLE
            self.detached[i] = False
            self.orphan[i] = False
            self.started_by[i] = -1
            self.a_due[i] = NEVER
        for i in range(len(self.t_due)):
            self.t_due[i] = NEVER
        self.timers.clear()
        self.ending.clear()
        self.watching.clear()
        self.lasting = []

    # ---- the chart ----

    def is_on(self, node):
        return (self.on >> node) & 1 != 0

    def start_chart(self):
        u = self.u
        self.on = 0
        for i in range(len(self.memory)):
            self.memory[i] = None
        self.running = True
        self.begin_entry()
        d = u.default[0]
        if d >= 0:
            for target in u.targets[d]:
                self.add_down(target)
            for target in self.effective(u.targets[d]):
                self.add_up(target, 0)
            self.taken(d)
        else:
            self.add_first(0)
        self.enter()
        self.transient = 0
        self.run_on()

    def fire_chart(self):
        if not self.running:
            return
        self.transient = 0
        enabled = self.select(False)
        if enabled:
            self.step(enabled)
        self.run_on()

    def look(self):
        if not self.running:
            return
        self.transient = 0
        self.run_on()

    def run_on(self):
        while self.running:
            enabled = self.select(True)
            if not enabled:
                return
            self.transient += 1
            if self.transient > MOST_STEPS:
                raise Endless()
            self.step(enabled)

    def stop_chart(self):
        for node in range(len(self.u.kind) - 1, 0, -1):
            if self.is_on(node):
                self.exited(node)
                self.on &= ~(1 << node)
        self.running = False

    def select(self, eventless):
        u = self.u
        found = []
        bits = self.on & u.atomic
        node0 = 0
        while bits >> node0:
            if not (bits >> node0) & 1:
                node0 += 1
                continue
            if u.above[node0] if eventless else u.has[node0]:
                node = node0
                while node >= 0:
                    took = False
                    for t in u.own[node]:
                        if eventless:
                            if not u.level[t] or not self.enabled_now(t):
                                continue
                        elif not self.enabled(t):
                            continue
                        if t not in found:
                            found.append(t)
                        took = True
                        break
                    if took:
                        break
                    node = u.parent[node]
            node0 += 1
        return self.without_conflicts(found) if len(found) > 1 else found

    def is_in(self, a, b):
        return b < a < self.u.end[b]

    def without_conflicts(self, found):
        kept = []
        for t1 in found:
            d1 = self.domain_of(t1)
            preempted = False
            gone = []
            for t2 in kept:
                if not self.meet(d1, self.domain_of(t2)):
                    continue
                if self.is_in(self.u.source[t1], self.u.source[t2]):
                    gone.append(t2)
                else:
                    preempted = True
                    break
            if preempted:
                continue
            kept = [t for t in kept if t not in gone]
            kept.append(t1)
        return kept

    def meet(self, d1, d2):
        if d1 < 0 or d2 < 0:
            return False
        if d1 == d2 or self.is_in(d1, d2):
            inner = d1
        elif self.is_in(d2, d1):
            inner = d2
        else:
            return False
        return self.on & self.stretch(inner + 1, self.u.end[inner]) != 0

    def stretch(self, a, b):
        return ((1 << b) - 1) & ~((1 << a) - 1)

    def domain_of(self, t):
        u = self.u
        if not u.targets[t]:
            return -1
        if u.fixed[t] >= 0:
            return u.fixed[t]
        return self.domain(t, self.effective(u.targets[t]))

    def domain(self, t, effective):
        u = self.u
        source = u.source[t]
        if u.inside[t] and u.kind[source] == COMPOUND and all([self.is_in(e, source) for e in effective]):
            return source
        node = u.parent[source]
        while node >= 0:
            if (node == 0 or u.kind[node] == COMPOUND) and all([self.is_in(e, node) for e in effective]):
                return node
            node = u.parent[node]
        return 0

    def effective(self, targets):
        u = self.u
        out = []
        for s in targets:
            if u.kind[s] != SHALLOW and u.kind[s] != DEEP:
                if s not in out:
                    out.append(s)
            elif self.memory[s] is not None:
                for k in self.nodes(self.memory[s]):
                    if k not in out:
                        out.append(k)
            elif u.default[s] >= 0:
                for k in self.effective(u.targets[u.default[s]]):
                    if k not in out:
                        out.append(k)
        return out

    def nodes(self, bits):
        out = []
        i = 0
        while bits >> i:
            if (bits >> i) & 1:
                out.append(i)
            i += 1
        return out

    def step(self, enabled):
        u = self.u
        leaving = 0
        goes = False
        for t in enabled:
            d = self.domain_of(t)
            if d < 0:
                continue
            goes = True
            leaving |= self.on & self.stretch(d + 1, u.end[d])
        if goes:
            order = self.nodes(leaving)
            for node in order:
                self.remember(node)
            for node in reversed(order):
                self.exited(node)
                self.on &= ~(1 << node)
        for t in enabled:
            self.taken(t)
        if not goes:
            return
        self.begin_entry()
        for t in enabled:
            if not u.targets[t]:
                continue
            for target in u.targets[t]:
                self.add_down(target)
            d = self.domain_of(t)
            for e in self.effective(u.targets[t]):
                self.add_up(e, d)
        self.enter()

    def remember(self, node):
        u = self.u
        for h in u.histories[node]:
            bits = 0
            for k in range(node + 1, u.end[node]):
                if self.is_on(k):
                    if u.kind[h] == DEEP:
                        if u.kind[k] == ATOMIC or u.kind[k] == FINAL:
                            bits |= 1 << k
                    elif u.parent[k] == node:
                        bits |= 1 << k
            self.memory[h] = bits

    def begin_entry(self):
        self.entering = 0
        self.defaulted = 0
        self.content = {}

    def add_first(self, node):
        if self.u.children[node]:
            first = self.u.children[node][0]
            self.add_down(first)
            self.add_up(first, node)

    def add_regions(self, node):
        for child in self.u.children[node]:
            if self.entering & self.stretch(child, self.u.end[child]) == 0:
                self.add_down(child)

    def add_down(self, node):
        u = self.u
        if u.kind[node] == SHALLOW or u.kind[node] == DEEP:
            d = u.default[node]
            if self.memory[node] is not None:
                those = self.nodes(self.memory[node])
            elif d >= 0:
                self.content[u.parent[node]] = d
                those = u.targets[d]
            else:
                return
            for k in those:
                self.add_down(k)
            for k in those:
                self.add_up(k, u.parent[node])
            return
        self.entering |= 1 << node
        if u.kind[node] == COMPOUND:
            self.defaulted |= 1 << node
            d = u.default[node]
            if d >= 0:
                for k in u.targets[d]:
                    self.add_down(k)
                for k in u.targets[d]:
                    self.add_up(k, node)
            else:
                self.add_first(node)
        elif u.kind[node] == PARALLEL:
            self.add_regions(node)

    def add_up(self, node, domain):
        u = self.u
        above = u.parent[node]
        while above > domain and above > 0:
            self.entering |= 1 << above
            if u.kind[above] == PARALLEL:
                self.add_regions(above)
            above = u.parent[above]

    def enter(self):
        u = self.u
        entering, defaulted, content = self.entering, self.defaulted, self.content
        for node in self.nodes(entering):
            self.on |= 1 << node
            self.entered(node)
            if (defaulted >> node) & 1 and u.default[node] >= 0:
                self.taken(u.default[node])
            if node in content:
                self.taken(content[node])
            if u.kind[node] != FINAL:
                continue
            parent = u.parent[node]
            if parent == 0:
                self.running = False
                continue
            self.done_node(parent)
            above = u.parent[parent]
            if above >= 0 and u.kind[above] == PARALLEL and self.all_ended(above):
                self.done_node(above)

    def all_ended(self, node):
        return all([self.node_ended(c) for c in self.u.children[node]])

    def node_ended(self, node):
        u = self.u
        if u.kind[node] == FINAL:
            return self.is_on(node)
        if u.kind[node] == PARALLEL:
            return self.all_ended(node)
        if u.kind[node] != COMPOUND:
            return False
        for c in u.children[node]:
            if u.kind[c] == FINAL and self.is_on(c):
                return True
        return False

    # ---- beginning and leaving ----

    def begin(self):
        self.active = True
        before = self.m.judging
        self.m.judging = self
        self.start_chart()
        self.m.judging = before

    def call(self, unit, activity):
        self.clear()
        self.caller_unit = unit
        self.caller = activity
        self.begin()

    def cancel(self):
        if not self.active:
            return
        before = self.m.judging
        self.m.judging = self
        self.stop_chart()
        self.m.judging = before
        for i in range(len(self.status)):
            if self.status[i] == GOING:
                self.drop(i, True)
        self.active = False

    def leave(self):
        if not self.active:
            return
        before = self.m.judging
        self.m.judging = self
        self.stop_chart()
        self.m.judging = before
        for i in range(len(self.status)):
            if self.status[i] == GOING:
                self.detach(i)
        self.active = False

    def fire(self):
        before = self.m.judging
        self.m.judging = self
        self.fire_chart()
        self.m.judging = before
        self.m.do_work(0)

    def look_again(self):
        self.changed = False
        before = self.m.judging
        self.m.judging = self
        self.look()
        self.m.judging = before
        self.m.do_work(0)
        return self.changed

    # ---- times ----

    def next_due(self):
        due = NEVER
        for a in self.ending.items:
            if self.a_due[a] < due:
                due = self.a_due[a]
        for t in self.timers.items:
            if self.t_due[t] < due:
                due = self.t_due[t]
        return due

    def earliest(self, items, due, now):
        best = -1
        for i in items:
            if due[i] <= now and (best < 0 or due[i] < due[best] or due[i] == due[best] and i < best):
                best = i
        return best

    def due_activity(self, now):
        return self.earliest(self.ending.items, self.a_due, now)

    def due_transition(self, now):
        u = self.u
        t = self.earliest(self.timers.items, self.t_due, now)
        if t < 0:
            return t
        kind = u.t_kind[t]
        if u.t_hold[t] is not None and (kind == EDGE or kind == LEAVE):
            self.edge_fired[t] = (self.edge_from[t] if kind == LEAVE else self.edge_to[t]) == u.t_zone[t]
            self.edge_from[t] = self.edge_to[t]
        self.arm(t, self.t_due[t] + max(1000, micros(u.t_time[t](self.m))) if kind == EVERY else NEVER)
        return t

    def arm(self, t, due):
        self.t_due[t] = due
        if due == NEVER:
            self.timers.remove(t)
        else:
            self.timers.add(t)

    def ends_at(self, a, due):
        self.a_due[a] = due
        if due == NEVER:
            self.ending.remove(a)
        else:
            self.ending.add(a)

    # ---- what sensors say ----

    def is_edge(self, t, sensor):
        kind = self.u.t_kind[t]
        return (kind == EDGE or kind == LEAVE) and self.u.t_sensor[t] == sensor

    def pressed(self, sensor, down):
        if not self.active:
            return
        u = self.u
        for t in list(self.watching.items):
            if u.t_kind[t] == PRESS and u.t_sensor[t] == sensor:
                self.arm(t, self.m.now + micros(u.t_time[t](self.m)) if down else NEVER)

    def sense_edges(self, sensor, scale, reading):
        u = self.u
        some = False
        for t in self.watching.items:
            if not self.is_edge(t, sensor):
                continue
            e = self.edges[t]
            before = e.held
            if not e.take_edge(scale, reading, u.t_needed[t]):
                continue
            if u.t_hold[t] is not None:
                self.turn(t, scale.zones[e.held])
                continue
            some = True
            if u.t_kind[t] == LEAVE:
                self.edge_fired[t] = before >= 0 and scale.zones[before] == u.t_zone[t]
            else:
                self.edge_fired[t] = scale.zones[e.held] == u.t_zone[t]
        return some

    def sense_zone(self, sensor, zone):
        u = self.u
        for t in self.watching.items:
            if not self.is_edge(t, sensor):
                continue
            e = self.edges[t]
            before = e.held
            if not e.take_zone(zone, u.t_needed[t]):
                continue
            if u.t_hold[t] is not None:
                self.turn(t, zone)
            else:
                self.edge_fired[t] = (before if u.t_kind[t] == LEAVE else zone) == u.t_zone[t]

    def see_edges(self, sensor, zone):
        if not self.active:
            return
        for t in self.watching.items:
            if self.is_edge(t, sensor):
                f = self.m.followers[sensor]
                self.edges[t] = Follower(f.held)
                self.edges[t].candidate = f.candidate
                self.edges[t].count = f.count
                if self.u.t_hold[t] is not None:
                    self.turn(t, zone)

    def name_edges(self, sensor):
        for t in self.watching.items:
            if self.is_edge(t, sensor):
                self.edges[t] = self.m.followers[sensor].copy()
                self.edge_from[t] = self.edge_to[t] = self.m.held[sensor]
                if self.u.t_hold[t] is not None:
                    self.arm(t, NEVER)

    def turn(self, t, zone):
        if zone == self.edge_to[t]:
            return
        self.edge_to[t] = zone
        if self.edge_from[t] < 0 and self.u.t_kind[t] == LEAVE:
            self.edge_from[t] = zone
        if zone == self.edge_from[t]:
            self.arm(t, NEVER)
        else:
            self.arm(t, self.m.now + micros(self.u.t_hold[t](self.m)))

    def miss_edges(self, sensor):
        for t in self.watching.items:
            if self.is_edge(t, sensor):
                if self.u.t_hold[t] is None:
                    self.edges[t].restart()
                    continue
                self.edges[t] = Follower(self.m.followed(sensor, self.edge_from[t]))
                self.edge_to[t] = self.edge_from[t]
                self.arm(t, NEVER)

    def forget_edges(self):
        for t in self.watching.items:
            self.edge_fired[t] = False

    def miss(self, sensor):
        u = self.u
        for t in self.watching.items:
            if u.t_sensor[t] == sensor:
                self.counted[t] = 0
                self.since[t] = -1
                if u.t_hold[t] is not None and u.level[t]:
                    self.arm(t, NEVER)
        self.miss_edges(sensor)

    def heard(self, text):
        if not self.active:
            return
        u = self.u
        for t in self.timers.items:
            if u.t_kind[t] == SILENCE and (u.t_text[t] < 0 or u.t_text[t] == text):
                self.t_due[t] = self.m.now + micros(u.t_time[t](self.m))

    # ---- what sets off ----

    def due(self, t):
        m = self.m
        return m.what == H_TIMER and m.timer_unit == self.index and m.timer_transition == t

    def enabled(self, t):
        u, m = self.u, self.m
        kind = u.t_kind[t]
        if kind == LEVEL or kind == ALWAYS:
            fires = self.rises(t, True)
        elif kind == EDGE or kind == LEAVE:
            if u.t_hold[t] is not None:
                fires = self.due(t) and self.edge_fired[t]
            elif m.what == H_SENSED:
                fires = self.edge_fired[t]
            else:
                fires = m.zone_moved() and m.what_sensor == u.t_sensor[t]
                if fires:
                    fires = (m.held[u.t_sensor[t]] if kind == EDGE else m.zone_before) == u.t_zone[t]
        elif kind == PRESS:
            press = u.t_press[t]
            if press == HELD:
                fires = self.due(t)
            else:
                fires = (
                    m.what == H_PRESS
                    and m.what_sensor == u.t_sensor[t]
                    and m.what_press == press
                    and (
                        press == PRESSED
                        or press == RELEASED
                        or m.down_serial[u.t_sensor[t]] > self.entered_at[u.source[t]]
                    )
                )
        elif kind == STALL:
            fires = m.what == H_STALLED and m.what_device == u.t_device[t]
        elif kind == GIVE_UP:
            fires = m.what == H_GAVE_UP and m.what_device == u.t_device[t]
        elif kind == TOLD:
            fires = m.what == H_TOLD and m.what_text == u.t_text[t] and (u.t_from[t] < 0 or u.t_from[t] == m.what_from)
        else:
            fires = self.due(t)
        if not fires:
            return False
        if kind != TOLD or not u.t_into[t]:
            return self.guard(t)
        into = u.t_into[t]
        n = min(len(into), len(m.message))
        kept = [0.0] * n
        for i in range(n):
            if into[i] >= 0:
                kept[i] = m.var[into[i]]
                m.var[into[i]] = m.message[i]
        if self.guard(t):
            return True
        for i in range(n):
            if into[i] >= 0:
                m.var[into[i]] = kept[i]
        return False

    def enabled_now(self, t):
        return self.rises(t, False) and self.guard(t)

    def guard(self, t):
        g = self.u.t_guard[t]
        if g is None:
            return True
        self.m.judging_node = self.u.source[t]
        return holds(g(self.m))

    def rises(self, t, by_event):
        u, m = self.u, self.m
        m.judging_node = u.source[t]
        yes = holds(u.t_cond[t](m))
        if u.t_counts[t]:
            if (
                by_event
                and (m.what == H_READING or m.what == H_ZONE or m.what == H_SENSED)
                and m.what_sensor == u.t_sensor[t]
            ):
                self.counted[t] = self.counted[t] + 1 if yes else 0
            yes = yes and self.counted[t] >= u.t_needed[t]
        if u.t_hold[t] is not None:
            s = u.t_sensor[t]
            if not yes or s >= 0 and m.zone_since[s] < 0:
                self.since[t] = -1
            elif self.since[t] < 0:
                self.since[t] = m.zone_since[s] if u.t_zone[t] >= 0 else m.now
            due = NEVER if self.since[t] < 0 else self.since[t] + micros(u.t_hold[t](m))
            yes = due <= m.now
            if not yes and self.t_due[t] != due:
                self.arm(t, due)
        if not yes:
            self.spent[t] = False
        return yes and not self.spent[t]

    def entered(self, node):
        u, m = self.u, self.m
        self.changed = True
        self.entered_at[node] = m.serial
        for t in u.own[node]:
            self.spent[t] = False
            self.counted[t] = 0
            self.edge_fired[t] = False
            self.since[t] = -1
            for root in u.t_roots[t]:
                if self.status[root] == ENDED or self.status[root] == DROPPED:
                    self.status[root] = IDLE
            if not u.t_watches[t]:
                continue
            self.watching.add(t)
            if u.t_kind[t] == EDGE or u.t_kind[t] == LEAVE:
                eye = u.t_sensor[t]
                self.edges[t] = m.followers[eye].copy()
                self.edge_from[t] = self.edge_to[t] = m.held[eye]
        for root in u.entry[node]:
            self.start(root, node)
        for root in u.whiles[node]:
            self.start(root, node)
        for t in u.own[node]:
            kind = u.t_kind[t]
            if kind == AFTER or kind == SILENCE:
                self.arm(t, m.now + micros(u.t_time[t](m)))
            elif kind == EVERY:
                self.arm(t, m.now + max(1000, micros(u.t_time[t](m))))
            else:
                self.arm(t, NEVER)

    def exited(self, node):
        u = self.u
        self.changed = True
        for t in u.own[node]:
            self.arm(t, NEVER)
            self.watching.remove(t)
        for root in u.whiles[node]:
            self.drop(root, True)
        for root in u.entry[node]:
            if self.status[root] == GOING:
                self.detach(root)
        for t in u.own[node]:
            for root in u.t_roots[t]:
                if self.status[root] == GOING:
                    self.detach(root)
        for t in u.arriving[node]:
            for root in u.t_roots[t]:
                if self.status[root] == GOING:
                    self.detach(root)
        for root in u.exits[node]:
            self.start(root, -1)

    def taken(self, t):
        u, m = self.u, self.m
        self.changed = True
        if not u.t_said[t]:
            return
        if u.level[t]:
            self.spent[t] = True
        if u.t_kind[t] == TOLD:
            into = u.t_into[t]
            for i in range(min(len(into), len(m.message))):
                if into[i] < 0:
                    self.push(-1 - into[i], m.message[i])
        m.transitions_now += 1
        if m.transitions_now > MOST_STEPS:
            raise Endless()
        m.last_step = u.first_step + t
        m.board.took(m.now, u.first_step + t)
        for root in u.t_roots[t]:
            self.start(root, u.source[t])

    def done_node(self, node):
        if node != 1:
            return
        if self.index == 0:
            self.m.finished = True
            return
        self.active = False
        for i in range(len(self.status)):
            if self.status[i] == GOING:
                self.detach(i)
        self.m.units[self.caller_unit].ends(self.caller)

    # ---- activities ----

    def start(self, a, state):
        floor = len(self.m.work)
        self.m.work.append((self.index, a, state))
        self.m.do_work(floor)

    def is_dropped(self, a):
        p = self.u.a_parent[a]
        return p >= 0 and self.status[p] == DROPPED

    def later(self, a, state):
        self.m.work.append((self.index, a, state))

    def keep_lasting(self, a):
        if a not in self.lasting:
            at = len(self.lasting)
            while at > 0 and self.lasting[at - 1] > a:
                at -= 1
            self.lasting.insert(at, a)

    def branch(self, a):
        if holds(self.u.a_value[a](self.m)):
            return 0
        return 1 if len(self.u.a_children[a]) > 1 else -1

    def begin_activity(self, a, state):
        u, m = self.u, self.m
        kind = u.a_kind[a]
        children = u.a_children[a]
        for child in children:
            self.make_orphan(child)
        self.status[a] = GOING
        self.started_by[a] = state
        self.detached[a] = False
        self.orphan[a] = False
        self.ends_at(a, NEVER)
        if kind == THEN:
            self.next[a] = 0
            self.later(children[0], state)
            return
        if kind == TOGETHER:
            for child in children:
                self.status[child] = IDLE
            for child in reversed(children):
                self.later(child, state)
            return
        if kind == IF:
            b = self.branch(a)
            self.next[a] = b
            if u.a_judged[a]:
                self.keep_lasting(a)
            if b >= 0:
                self.later(children[b], state)
            elif not u.a_judged[a]:
                self.ends(a)
            return
        if kind == REPEAT:
            if u.a_second[a] is not None:
                if holds(u.a_second[a](m)):
                    self.ends(a)
                else:
                    self.later(children[0], state)
                return
            n = u.a_value[a](m)
            self.rounds[a] = 0 if n != n else int(min(max(round(n), 0), 1000000))
            if self.rounds[a] == 0:
                self.ends(a)
            else:
                self.later(children[0], state)
            return
        if kind == ROUTINE:
            unit = m.units[u.a_unit[a]]
            unit.cancel()
            args = u.a_args[a]
            for i in range(len(args)):
                m.var[unit.u.parameters[i]] = args[i](m)
            unit.call(self.index, a)
            return
        device = u.a_device[a]
        slot = u.a_slot[a]
        if kind == SET:
            if slot < 0:
                m.queues[-1 - slot] = []
            else:
                m.var[slot] = u.a_value[a](m)
        elif kind == PUSH:
            self.push(slot, u.a_value[a](m))
        elif kind == TAKE:
            if m.queues[slot]:
                m.var[u.a_other[a]] = m.queues[slot].pop(0)
        elif kind == TELL:
            m.board.tell(m.now, slot, u.a_other[a], [arg(m) for arg in u.a_args[a]])
            self.command(a, -1, 0.0, 0.0)
        elif kind == TEACH:
            m.teach(slot, u.a_other[a], u.a_finite[a])
            if u.a_other[a] >= 0:
                self.command(u.a_parent[a] if u.a_finite[a] else a, -1, 0.0, 0.0)
        elif kind == ZERO:
            m.travel[device] = 0.0
            m.angle[device] = 0.0
            self.command(a, device, 0.0, 0.0)
        elif kind == SHOW:
            self.command(a, -1, float(u.a_other[a]) if u.a_value[a] is None else u.a_value[a](m), 0.0)
        elif kind == STOP_ALL:
            m.stop_all(self.index, a)
            self.command(a, -1, 0.0, 0.0)
        elif kind == LAMP_ON or kind == LAMP_OFF or kind == STOP:
            self.own(device, a if kind == LAMP_ON else -1)
            m.done[device] = kind == STOP and not self.commands_later(a, device)
            self.command(a, device, 0.0, 0.0)
        elif kind == MOVE:
            self.own(device, a)
            self.order(a)
            if not u.a_finite[a]:
                self.keep_lasting(a)
            return
        self.ends(a)

    def make_orphan(self, a):
        if self.status[a] != GOING:
            return
        u = self.u
        if u.a_kind[a] == ROUTINE:
            self.m.units[u.a_unit[a]].leave()
            self.drop(a, False)
            return
        if not u.a_children[a]:
            self.orphan[a] = True
            return
        self.status[a] = IDLE
        for child in u.a_children[a]:
            self.make_orphan(child)

    def push(self, queue, value):
        q = self.m.queues[queue]
        if len(q) >= MOST_QUEUED:
            if self.m.fault is None:
                self.m.fault = "a queue is full"
        else:
            q.append(value)

    def command(self, a, device, value, second, lasts=0):
        self.m.board.command(self.m.now, self.index, a, device, value, second, lasts)

    def order(self, a):
        u, m = self.u, self.m
        self.last_value[a] = 0.0 if u.a_value[a] is None else u.a_value[a](m)
        self.last_second[a] = 0.0 if u.a_second[a] is None else u.a_second[a](m)
        lasts = 0
        if u.a_finite[a] and u.a_lasts[a] is not None:
            lasts = micros(u.a_lasts[a](m))
            self.ends_at(a, m.now + lasts)
        self.command(a, u.a_device[a], self.last_value[a], self.last_second[a], lasts)

    def own(self, device, activity):
        if device < 0:
            return
        m = self.m
        m.stop_pending[device] = False
        m.done[device] = False
        m.given_up[device] = False
        unit, before = m.owner[device]
        m.owner[device] = (-1, -1) if activity < 0 else (self.index, activity)
        if unit < 0 or before < 0 or unit == self.index and before == activity:
            return
        other = m.units[unit]
        if other.status[before] == GOING and other.u.a_finite[before]:
            other.drop(before, False)

    def is_finite_move(self, a):
        return self.u.a_kind[a] == MOVE and self.u.a_finite[a] and self.status[a] == GOING

    def stop_all(self, unit, activity):
        for i in range(len(self.status)):
            if self.status[i] == GOING and not self.around(i, unit, activity):
                self.drop(i, False)

    def around(self, a, unit, activity):
        at, x = unit, activity
        while at >= 0 and x >= 0:
            if at == self.index and x == a:
                return True
            un = self.m.units[at]
            x = un.u.a_parent[x]
            if x < 0:
                at, x = un.caller_unit, un.caller
        return False

    def commands_later(self, a, device):
        if self.orphan[a]:
            return False
        u = self.u
        up = u.a_parent[a]
        while up >= 0:
            if self.status[up] != GOING or self.detached[up]:
                return False
            if u.a_kind[up] == REPEAT:
                until = u.a_second[up]
                if not holds(until(self.m)) if until is not None else self.rounds[up] > 1:
                    return True
            if u.a_kind[up] == THEN:
                for i in range(self.next[up] + 1, len(u.a_children[up])):
                    if self.says_to(u.a_children[up][i], device):
                        return True
            up = u.a_parent[up]
        return False

    def says_to(self, a, device):
        u = self.u
        if u.a_device[a] == device and (u.a_kind[a] == MOVE or u.a_kind[a] == STOP):
            return True
        for child in u.a_children[a]:
            if self.says_to(child, device):
                return True
        return False

    def ends(self, a, gave_up=False):
        u, m = self.u, self.m
        while a >= 0 and self.status[a] == GOING:
            self.status[a] = ENDED
            self.ends_at(a, NEVER)
            device = u.a_device[a]
            if u.a_kind[a] == MOVE and u.a_finite[a] and device >= 0:
                m.done[device] = not gave_up and not self.commands_later(a, device)
                m.given_up[device] = gave_up
                if m.owner[device] == (self.index, a):
                    m.owner[device] = (-1, -1)
                if gave_up or u.a_stops[a]:
                    self.command(-2, device, 0.0, 0.0)
            gave_up = False
            parent = -1 if self.orphan[a] else u.a_parent[a]
            self.orphan[a] = False
            if parent < 0 or self.status[parent] != GOING:
                return
            kind = u.a_kind[parent]
            children = u.a_children[parent]
            if kind == THEN:
                self.next[parent] += 1
                if self.next[parent] < len(children):
                    if self.detached[parent]:
                        self.drop(parent, False)
                    else:
                        self.later(children[self.next[parent]], self.started_by[parent])
                    return
            elif kind == TOGETHER:
                for child in children:
                    if self.status[child] == GOING or self.status[child] == IDLE:
                        return
            elif kind == IF:
                if u.a_judged[parent]:
                    return
            elif kind == REPEAT:
                if u.a_second[parent] is not None:
                    over = holds(u.a_second[parent](m))
                else:
                    self.rounds[parent] -= 1
                    over = self.rounds[parent] <= 0
                if not over:
                    if self.detached[parent]:
                        self.drop(parent, False)
                    else:
                        self.later(children[0], self.started_by[parent])
                    return
            else:
                return
            a = parent

    def drop(self, a, stop):
        u, m = self.u, self.m
        was = self.status[a]
        self.status[a] = DROPPED
        self.ends_at(a, NEVER)
        for child in u.a_children[a]:
            if self.status[child] == GOING and not self.orphan[child] or stop:
                self.drop(child, stop)
        kind = u.a_kind[a]
        if kind == ROUTINE and was == GOING:
            m.units[u.a_unit[a]].cancel()
        device = u.a_device[a]
        if stop and device >= 0 and (kind == MOVE or kind == LAMP_ON) and m.owner[device] == (self.index, a):
            m.stop_pending[device] = True
        if stop:
            return
        up = -1 if self.orphan[a] else u.a_parent[a]
        while up >= 0 and self.status[up] == GOING:
            self.status[up] = DROPPED
            up = u.a_parent[up]

    def detach(self, a):
        u = self.u
        self.detached[a] = True
        if u.a_kind[a] == ROUTINE and self.status[a] == GOING:
            self.m.units[u.a_unit[a]].leave()
            self.drop(a, False)
        for child in u.a_children[a]:
            if self.status[child] == GOING:
                self.detach(child)

    def all_done(self, node):
        u = self.u
        some = False
        for group in [u.entry[node], u.whiles[node]] + [u.t_roots[t] for t in u.own[node]]:
            for root in group:
                if self.status[root] == GOING or self.status[root] == DROPPED:
                    return False
                if self.status[root] == ENDED and self.takes(root):
                    some = True
        return some

    def takes(self, a):
        u = self.u
        kind = u.a_kind[a]
        if kind == MOVE or kind == ROUTINE:
            return True
        if kind == IF:
            return self.next[a] >= 0 and self.takes(u.a_children[a][self.next[a]])
        for child in u.a_children[a]:
            if self.takes(child):
                return True
        return False

    def resume(self, device):
        for node in reversed(self.nodes(self.on)):
            for root in self.u.whiles[node]:
                a = self.lasting_of(root, device)
                if a >= 0:
                    self.m.owner[device] = (self.index, a)
                    self.order(a)
                    return True
        return False

    def lasting_of(self, a, device):
        u = self.u
        if u.a_device[a] == device and (
            u.a_kind[a] == MOVE and not u.a_finite[a] and self.status[a] == GOING or u.a_kind[a] == LAMP_ON
        ):
            return a
        for child in u.a_children[a]:
            found = self.lasting_of(child, device)
            if found >= 0:
                return found
        return -1

    def judge(self, a):
        u, m = self.u, self.m
        if self.started_by[a] >= 0:
            m.judging_node = self.started_by[a]
        before = m.judging
        m.judging = self
        b = self.branch(a)
        m.judging = before
        if b == self.next[a]:
            return
        if self.next[a] >= 0:
            was = u.a_children[a][self.next[a]]
            if self.status[was] == GOING or u.a_kind[was] == LAMP_ON:
                self.drop(was, True)
        self.next[a] = b
        if b >= 0:
            self.start(u.a_children[a][b], self.started_by[a])

    def refresh(self):
        u, m = self.u, self.m
        i = 0
        while i < len(self.lasting):
            a = self.lasting[i]
            if self.status[a] != GOING:
                self.lasting.pop(i)
                continue
            i += 1
            if u.a_kind[a] == IF:
                self.judge(a)
                continue
            device = u.a_device[a]
            if device < 0 or m.owner[device] != (self.index, a) or self.started_by[a] < 0:
                continue
            value = 0.0 if u.a_value[a] is None else u.a_value[a](m)
            second = 0.0 if u.a_second[a] is None else u.a_second[a](m)
            if value == self.last_value[a] and second == self.last_second[a]:
                continue
            self.order(a)


# ---- the machine ----


class Machine:
    """Steps a program. board gets what it does: command(), tell() and took(). It begins with start()."""

    def __init__(self, p, board):
        self.p = p
        self.board = board
        self.units = [Unit(self, p.units[i], i) for i in range(len(p.units))]

    def start(self, seed=1):
        p = self.p
        n, d = len(p.sensors), len(p.devices)
        self.random = (seed * 0x9E3779B97F4A7C15 + 0x1234567) & 0xFFFFFFFFFFFFFFFF
        self.now = 0
        self.serial = 0
        self.last_step = -1
        self.finished = False
        self.fault = None
        self.work = []
        self.transitions_now = 0
        self.actions_now = 0
        self.readings = [NAN] * n
        self.held = [p.up if p.is_switch[t[0]] else -1 for t in p.trackers]
        self.followers = [Follower() for t in p.trackers]
        self.scales = list(p.scales)
        self.look_sum = [0.0] * n
        self.look_count = [0] * n
        self.looking = [False] * n
        self.cannot_tell = [False] * n
        self.taught = [[] for s in range(n)]
        self.known = list(p.is_switch)
        self.silent_now = [False] * n
        self.blind = [False] * n
        self.zone_since = [0] * n
        self.side = [-1] * len(p.marks)
        self.crossing = [0] * len(p.marks)
        self.down = [False] * n
        self.down_since = [0] * n
        self.down_serial = [0] * n
        self.last_tap = [NO_TAP] * n
        self.travel = [0.0] * d
        self.angle = [0.0] * d
        self.done = [False] * d
        self.given_up = [False] * d
        self.stop_pending = [False] * d
        self.owner = [(-1, -1)] * d
        self.queues = [[] for q in p.queues]
        self.var = [0.0] * len(p.variables)
        self.message = []
        self.judging = None
        self.judging_node = 0
        self.what = NOTHING
        self.what_sensor = -1
        self.what_press = PRESSED
        self.zone_before = -1
        self.what_device = -1
        self.what_text = -1
        self.what_from = -1
        self.timer_unit = -1
        self.timer_transition = -1
        for slot, value in p.initial:
            self.var[slot] = value(self)
        for u in self.units:
            u.clear()
        self.run(H_START, 0, -1)

    def new_moment(self):
        self.transitions_now = 0
        self.actions_now = 0

    def next_due(self):
        due = NEVER
        for u in self.units:
            d = u.next_due()
            if d < due:
                due = d
        return due

    def at(self, now):
        if now > self.now:
            self.now = now

    def pass_until(self, until):
        while self.fault is None and not self.finished:
            first, due = None, NEVER
            for u in self.units:
                d = u.next_due()
                if d < due:
                    first, due = u, d
            if first is None or due > until:
                break
            if due > self.now:
                self.now = due
                self.new_moment()
            a = first.due_activity(self.now)
            if a >= 0:
                self.what_device = first.u.a_device[a]
                self.run(H_GAVE_UP if first.u.a_limited[a] else H_ENDED, first.index, a)
                continue
            t = first.due_transition(self.now)
            if t >= 0:
                self.timer_unit = first.index
                self.timer_transition = t
                self.run(H_TIMER)
                self.timer_unit = -1
                self.timer_transition = -1
        self.at(until)

    def gives_up(self, device):
        unit, a = self.owner[device]
        if unit < 0 or a < 0 or not self.units[unit].is_finite_move(a):
            return False
        self.new_moment()
        self.what_device = device
        self.run(H_GAVE_UP, unit, a)
        return True

    def see_zone(self, sensor, zone):
        p = self.p
        self.new_moment()
        self.was_heard(sensor)
        self.cannot_tell[sensor] = False
        if self.held[sensor] == zone:
            self.reread(sensor)
            return
        self.zone_before = self.held[sensor]
        self.zone_since[sensor] = self.now
        for i in p.trackers_of[sensor]:
            self.held[i] = zone
            self.followers[i] = Follower(self.followed(sensor, zone))
        self.what_sensor = sensor
        for u in self.units:
            u.see_edges(sensor, zone)
        if p.is_switch[sensor]:
            self.press(sensor, zone == p.down)
        else:
            self.run(H_ZONE)

    def was_heard(self, sensor):
        self.known[sensor] = True
        self.silent_now[sensor] = False
        self.blind[sensor] = False

    def followed(self, sensor, zone):
        if zone < 0:
            return -1
        scale = self.scales[sensor]
        return zone if scale is None else scale.index(zone)

    def says_nothing(self, sensor, reading):
        p = self.p
        if not p.may_hear_nothing[sensor] or reading != reading:
            return False
        nothing = reading == p.silent_reading[sensor]
        if not nothing and reading >= p.blind_below[sensor]:
            return False
        self.hears_nothing(sensor, nothing)
        return True

    def silent(self, sensor):
        self.hears_nothing(sensor, True)

    def hears_nothing(self, sensor, nothing):
        p = self.p
        if self.finished or self.fault is not None:
            return
        zone = p.silence_zone[sensor]
        if nothing and zone >= 0 and self.held[sensor] != zone:
            self.see_zone(sensor, zone)
        self.new_moment()
        self.known[sensor] = True
        self.silent_now[sensor] = nothing
        self.blind[sensor] = True
        for i in p.trackers_of[sensor]:
            self.followers[i].restart()
        for i in range(len(p.marks)):
            if p.marks[i][0] == sensor:
                self.crossing[i] = 0
        for u in self.units:
            u.miss_edges(sensor)
        self.reread(sensor)

    def sense(self, sensor, reading):
        p = self.p
        if self.finished or self.fault is not None or self.says_nothing(sensor, reading):
            return
        self.new_moment()
        changed = False
        lost = reading != reading
        if not lost:
            self.was_heard(sensor)
            if self.zone_since[sensor] < 0:
                self.zone_since[sensor] = self.now
                changed = True
        self.cross(sensor, reading)
        scale = self.scales[sensor]
        if scale is not None:
            for i in p.trackers_of[sensor]:
                f = self.followers[i]
                first = f.held < 0
                if not f.take(scale, reading, p.trackers[i][1]) and not (first and f.held >= 0):
                    continue
                changed = True
                self.held[i] = scale.zones[f.held]
                if i == sensor:
                    self.zone_since[sensor] = self.now
            for u in self.units:
                if u.active and u.sense_edges(sensor, scale, reading):
                    changed = True
        if lost:
            self.zone_since[sensor] = -1
            for u in self.units:
                u.miss(sensor)
        else:
            self.readings[sensor] = reading
            self.saw(sensor, reading)
        if not changed and (not p.numbers[sensor] or lost):
            return
        self.what_sensor = sensor
        self.run(H_SENSED)
        for u in self.units:
            u.forget_edges()

    def saw(self, sensor, reading):
        if self.looking[sensor]:
            self.look_sum[sensor] += reading
            self.look_count[sensor] += 1

    def cross(self, sensor, reading):
        p = self.p
        for i in range(len(p.marks)):
            s, value, needed, own = p.marks[i]
            if s != sensor:
                continue
            if reading != reading:
                self.crossing[i] = 0
                continue
            unread = self.side[i] < 0
            scale = self.scales[sensor]
            band = 0.0 if unread else (own if scale is None else scale.band_near(value))
            above = reading > value + band
            below = reading <= value if unread else reading < value - band
            if above and self.side[i] != 1:
                self.crossing[i] = max(0, self.crossing[i]) + 1
            elif below and self.side[i] != 0:
                self.crossing[i] = min(0, self.crossing[i]) - 1
            else:
                self.crossing[i] = 0
            if abs(self.crossing[i]) < needed:
                continue
            self.side[i] = 1 if self.crossing[i] > 0 else 0
            self.crossing[i] = 0

    def is_beyond(self, mark, above, or_equal):
        s, value, needed, own = self.p.marks[mark]
        if needed == 1 and self.readings[s] == value:
            return or_equal
        return self.side[mark] == (1 if above else 0)

    def reread(self, sensor):
        self.what_sensor = sensor
        self.zone_before = self.held[sensor]
        self.run(H_READING)

    def press(self, sensor, is_down):
        tapped = self.down[sensor] and not is_down and self.now - self.down_since[sensor] <= TAP
        self.down[sensor] = is_down
        if is_down:
            self.down_since[sensor] = self.now
            self.down_serial[sensor] = self.serial + 1
        for u in self.units:
            u.pressed(sensor, is_down)
        self.what_press = PRESSED if is_down else RELEASED
        self.run(H_PRESS)
        if not tapped:
            return
        twice = self.now - self.last_tap[sensor] <= TWICE
        self.last_tap[sensor] = NO_TAP if twice else self.now
        self.what_sensor = sensor
        self.what_press = TAPPED
        self.run(H_PRESS)
        if not twice:
            return
        self.what_sensor = sensor
        self.what_press = TAPPED_TWICE
        self.run(H_PRESS)

    def read(self, sensor, value):
        p = self.p
        if self.finished or self.fault is not None or self.says_nothing(sensor, value):
            return
        if self.scales[sensor] is not None:
            self.sense(sensor, value)
            return
        self.new_moment()
        self.was_heard(sensor)
        self.readings[sensor] = value
        self.saw(sensor, value)
        self.cross(sensor, value)
        if p.reader[sensor] == 1:
            self.read_zone(sensor, p.zone_of(sensor, [value]))
            return
        self.what_sensor = sensor
        self.zone_before = self.held[sensor]
        self.run(H_READING)

    def sense_zone(self, sensor, zone):
        if self.finished or self.fault is not None:
            return
        self.new_moment()
        self.was_heard(sensor)
        self.read_zone(sensor, zone)

    def read_zone(self, sensor, zone):
        p = self.p
        for i in p.trackers_of[sensor]:
            f = self.followers[i]
            if not f.take_zone(zone, 1 if f.held < 0 else p.trackers[i][1]):
                continue
            self.held[i] = zone
            if i == sensor:
                self.zone_since[sensor] = self.now
        for u in self.units:
            if u.active:
                u.sense_zone(sensor, zone)
        self.what_sensor = sensor
        self.run(H_SENSED)
        for u in self.units:
            u.forget_edges()

    def moved(self, device, travel_mm, angle_deg):
        self.new_moment()
        self.travel[device] = travel_mm
        self.angle[device] = angle_deg
        self.run(H_READING)

    def ended(self, device):
        unit, a = self.owner[device]
        if unit < 0 or a < 0 or not self.units[unit].is_finite_move(a):
            return False
        self.new_moment()
        self.run(H_ENDED, unit, a)
        return True

    def stalled(self, device):
        self.new_moment()
        self.what_device = device
        self.run(H_STALLED)

    def told(self, text, sender, values):
        self.new_moment()
        self.what_text = text
        self.what_from = sender
        self.message = list(values[:MOST_VALUES])
        for u in self.units:
            u.heard(text)
        self.run(H_TOLD)

    def teach(self, sensor, zone, looked):
        if zone < 0:
            self.look_sum[sensor] = 0.0
            self.look_count[sensor] = 0
            self.looking[sensor] = True
            return
        if not looked:
            reading = NAN if self.blind[sensor] else self.readings[sensor]
        elif self.look_count[sensor] > 0:
            reading = self.look_sum[sensor] / self.look_count[sensor]
        else:
            reading = NAN
        self.looking[sensor] = False
        taught = [t for t in self.taught[sensor] if t[0] != zone]
        made = None
        if reading == reading:
            taught.append((zone, reading))
            made = taught_scale(self.p.scales[sensor], taught)
        self.taught[sensor] = taught
        self.cannot_tell[sensor] = made is None
        self.scales[sensor] = made
        now = -1 if made is None else zone
        for i in self.p.trackers_of[sensor]:
            self.held[i] = now
            self.followers[i] = Follower(self.followed(sensor, now))
        self.zone_since[sensor] = self.now
        for u in self.units:
            u.name_edges(sensor)

    def zone_moved(self):
        return (
            self.what == H_ZONE
            or self.what == H_PRESS
            and (self.what_press == PRESSED or self.what_press == RELEASED)
        )

    def run(self, happening, unit=-1, activity=-1):
        if self.finished or self.fault is not None:
            return
        self.what = happening
        self.serial += 1
        try:
            if happening == H_START:
                self.units[unit].begin()
                self.do_work(0)
            else:
                if unit >= 0:
                    self.units[unit].ends(activity, happening == H_GAVE_UP)
                    self.do_work(0)
                for u in self.units:
                    if u.active:
                        u.fire()
            self.what = NOTHING
            changed = True
            while changed:
                changed = False
                for u in self.units:
                    if u.active and u.look_again():
                        changed = True
        except Endless:
            self.fault = "it goes round and round"
            self.work = []
        except TooMuch:
            self.fault = "too much at one moment"
            self.work = []
        self.what = NOTHING
        # What is settled begins things too.
        try:
            self.settle()
        except TooMuch:
            if self.fault is None:
                self.fault = "too much at one moment"
            self.work = []
        except Endless:
            if self.fault is None:
                self.fault = "it goes round and round"
            self.work = []
        if self.finished:
            self.stop_at_end()

    def stop_at_end(self):
        for d in range(len(self.owner)):
            unit, a = self.owner[d]
            if unit < 0 or a < 0 or not self.p.moves[d] or self.units[unit].status[a] != GOING:
                continue
            self.owner[d] = (-1, -1)
            self.board.command(self.now, 0, -3, d, 0.0, 0.0, 0)

    def stop_all(self, unit, activity):
        for u in self.units:
            u.stop_all(unit, activity)
        for d in range(len(self.owner)):
            self.owner[d] = (-1, -1)
            self.stop_pending[d] = False
            self.given_up[d] = False
            self.done[d] = True

    def do_work(self, floor):
        while len(self.work) > floor:
            unit, a, state = self.work.pop()
            if self.units[unit].is_dropped(a):
                continue
            self.actions_now += 1
            if self.actions_now > MOST_ACTIONS:
                raise TooMuch()
            self.units[unit].begin_activity(a, state)

    def settle(self):
        for u in self.units:
            if u.active:
                u.refresh()
        for d in range(len(self.stop_pending)):
            if not self.stop_pending[d]:
                continue
            self.stop_pending[d] = False
            resumed = False
            for u in self.units:
                if u.active and u.resume(d):
                    resumed = True
                    break
            if resumed:
                continue
            self.owner[d] = (-1, -1)
            self.board.command(self.now, 0, -1, d, 0.0, 0.0, 0)

    # ---- what sentences ask ----

    def all_done(self):
        return self.judging is not None and self.judging.all_done(self.judging_node)

    def queue_length(self, queue):
        return float(len(self.queues[queue]))

    def holds_in(self, queue, value):
        for v in self.queues[queue]:
            if v == value or v != v and value != value:
                return True
        return False

    def is_in(self, place):
        places = self.p.places[place]
        own = self.judging
        if own is not None and places[own.index] is not None:
            return any([own.is_on(n) for n in places[own.index]])
        for u in self.units:
            if u.active and places[u.index] is not None and any([u.is_on(n) for n in places[u.index]]):
                return True
        return False

    def chance(self):
        r = self.random
        r ^= (r << 13) & 0xFFFFFFFFFFFFFFFF
        r ^= r >> 7
        r ^= (r << 17) & 0xFFFFFFFFFFFFFFFF
        self.random = r
        return (r >> 11) * (1.0 / 9007199254740992.0)

    def states(self):
        """The states that are active, as people name them."""
        u = self.units[0]
        return [u.u.paths[n] for n in u.nodes(u.on) if u.u.kind[n] == ATOMIC or u.u.kind[n] == FINAL]
