// What stands between the programs and the board. Five functions are yours to fill in:
//
//   struct Hands {
//     int read(int sensor, double *value);        // what it reads now: 1 number, or 3 of a colour; 0 where it hears nothing
//     void act(const chiton::Order &order);       // does what a sentence tells a device
//     uint32_t micros();                          // the time in microseconds; it may run over
//     void send(const chiton::Message &message);  // to a program that is not on this board
//     bool receive(chiton::Message &message);     // what came from one; false while nothing has
//   };
//
// Then: Hands hands; chiton::Rig<chiton::NAME, Hands> rig(hands); rig.begin(); while (rig.step()) {}
// step() may be called as often as you like, at least every half hour; it never waits. A clock that stands still is not noticed.
// Tell it besides what only the board can know: rig.done(device) when a move has come to its end by itself, rig.stalls(device),
// rig.moved(device, mm, degrees).

namespace chiton {

enum class Verb : uint8_t {
  run, drive, turn, steer, follow, go, home, set, step, stop, brake, coast, hold, on, off, blink, tone, beep, play, show, zero
};
enum class Unit : uint8_t { none, percent, mm, mm_s, s, hz, deg, deg_s, motor_deg, wheel_deg, robot_deg, steps };

// What a sentence tells a device.
struct Order {
  int device;           // by its number; -1 for what is shown
  Verb verb;
  Unit unit, amount_unit;
  double value;         // how fast, at which angle, which tone; unknown where nothing is said of it
  double amount;        // how far, or the second of two numbers
  double seconds;       // for how long; 0 until something else is told
  const char *words;    // a colour, a text, a position
};

struct Message {
  const char *program;  // to whom it goes, or from whom it comes
  const char *text;
  double values[16];
  int count;
};

struct OrderRow {
  uint8_t verb;
  int8_t sign;
  uint8_t unit, amount_unit;
  int8_t value, amount;
  const char *words;
};

inline bool same_words(const char *a, const char *b) {
  while (*a && *a == *b) a++, b++;
  return *a == *b;
}

// The class of a colour whose readings lie nearest, by what they share of scatter; -1 where none is near enough, as a squared distance.
inline int nearest(const double *r, const double *means, int count, const double *inverse, double farthest) {
  if (nobody(r[0])) return -1;
  int best = -1;
  double least = HUGE_VAL;
  for (int k = 0; k < count; k++) {
    double squared = 0;
    for (int i = 0; i < 3; i++)
      for (int j = 0; j < 3; j++) squared += (r[i] - means[3 * k + i]) * inverse[3 * i + j] * (r[j] - means[3 * k + j]);
    if (squared < least) best = k, least = squared;
  }
  return least > farthest ? -1 : best;
}

template <int I> struct At {
  static constexpr int value = I;
};

// What one program does reaches the board through here.
template <class Rig, class P, int I> struct Port {
  Rig &rig;
  void command(int64_t now, int unit, int activity, int device, double value, double second, int64_t lasts) {
    rig.now = now;
    const int row = activity < 0 ? -1 : P::a_order[P::a_first[unit] + activity];
    if (device < 0 && row < 0) {
      if (activity >= 0 && P::a_kind[P::a_first[unit] + activity] == STOP_ALL)
        for (int d = 0; d < P::devices; d++) rig.order({P::out_device[d], Verb::stop, Unit::none, Unit::none, unknown, unknown, 0, ""});
      return;
    }
    Order o = {device < 0 ? -1 : P::out_device[device], Verb::stop, Unit::none, Unit::none, unknown, unknown, double(lasts) * 1e-6, ""};
    if (row >= 0) {
      const OrderRow &r = P::orders[row];
      o.verb = Verb(r.verb), o.unit = Unit(r.unit), o.amount_unit = Unit(r.amount_unit), o.words = r.words;
      o.value = r.value == -1 ? r.sign * value : r.value < 0 ? unknown : r.sign * P::order_numbers[r.value];
      o.amount = r.amount == -1 ? second : r.amount < 0 ? unknown : P::order_numbers[r.amount];
    }
    rig.order(o);
  }
  void tell(int64_t now, int program, int text, const double *values, int count) {
    rig.now = now;
    rig.told_by(I, P::out_program[program], P::out_text[text], values, count);
  }
  void took(int64_t, int) {}
};

template <class R, class Hands> class Rig {
public:
  // 0 while it runs well; 1 to 3 as in a machine, 4 for too many messages on their way, 5 for messages that go round and round.
  uint8_t fault = 0;
  int64_t now = 0;

  explicit Rig(Hands &h) : hands(h), machines(*this) {}

  // Starts all programs at time 0; what is random in them follows from the seed.
  void begin(uint64_t seed = 1) {
    now = 0, fault = 0, flying = 0, serial = 0;
    last = hands.micros();
    down.clear();
    for (auto &n : next_reading) n = 0;
    machines.each([&](auto &m, auto i) { m.start(seed + uint64_t(i.value) * 7919); });
    let_pass(0);
  }

  // Looks what time it is, what came, and what sensors read that are due. False once all programs have ended, or one had to stop.
  bool step() {
    const uint32_t time = hands.micros(), gone = time - last;
    // A clock that went back a little has not gone round.
    if (gone < 0x80000000u) let_pass(now + gone), last = time;
    if constexpr (R::hears) {
      Message message;
      while (hands.receive(message)) hears(message);
    }
    for (int s = 0; s < R::sensors; s++) {
      if (now < next_reading[s]) continue;
      next_reading[s] += R::period(s);
      if (next_reading[s] <= now) next_reading[s] = now + R::period(s);
      double value[3] = {unknown, unknown, unknown};
      const int count = hands.read(s, value);
      reads(s, value, count);
    }
    return runs();
  }

  bool runs() {
    bool any = false;
    machines.each([&](auto &m, auto) {
      any |= !m.finished;
      if (m.fault && !fault) fault = m.fault;
    });
    return any && !fault;
  }

  // Lets time pass until then: what is due happens at its time, messages by arrival.
  void let_pass(int64_t until) {
    if constexpr (!R::network) {
      machines.each([&](auto &m, auto) { m.pass_until(until); });
      now = until > now ? until : now;
      return;
    } else {
      int64_t instant = -1;
      int arrived = 0;
      while (!fault) {
        int64_t due = next_due();
        if (due > until) break;
        if (due < now) due = now;
        if (due != instant) instant = due, arrived = 0;
        now = due;
        machines.each([&](auto &m, auto) { m.pass_until(due); });
        for (int f = first_by(due); !fault && f >= 0; f = first_by(due)) {
          if (++arrived > most_at_once) {
            fault = 5;
            break;
          }
          const Flight x = flights[f];
          flights[f] = flights[--flying];
          machines.each([&](auto &m, auto i) {
            using P = typename R::template Of<decltype(i)::value>;
            if (i.value == x.to) m.told(P::own_text[x.text], P::own_program[x.from], x.values, x.count);
          });
        }
      }
      if (until > now) now = until;
      machines.each([&](auto &m, auto) { m.pass_until(now); });
    }
  }

  // When something is due next by itself.
  int64_t next_due() {
    int64_t due = never;
    machines.each([&](auto &m, auto) {
      if (!m.finished && !m.fault && m.next_due() < due) due = m.next_due();
    });
    for (int f = 0; f < flying; f++)
      if (flights[f].due < due) due = flights[f].due;
    return due;
  }

  // Brings the clock to a moment at which something comes, before anything due then has happened.
  void at(int64_t micros_now) {
    if (micros_now > now) now = micros_now;
    machines.each([&](auto &m, auto) { m.at(now); });
  }

  // A reading that came, by whatever way: 1 number or 3; none where nothing was heard.
  void reads(int sensor, const double *value, int count) {
    const double v = count > 0 ? value[0] : unknown;
    machines.each([&](auto &m, auto i) {
      using P = typename R::template Of<decltype(i)::value>;
      const int s = P::own_sensor[sensor];
      if (s < 0) return;
      m.at(now);
      if (P::is_switch[s]) {
        if (nobody(v) || (v > 0.5) == down.get(sensor)) return;
        m.see_zone(s, v > 0.5 ? P::down_zone : P::up);
      } else if (count > 0 && nobody(v))
        m.sense(s, v);
      else if (P::reader[s] > 1)
        m.sense_zone(s, count > 0 ? P::zone_of(s, value) : -1);
      else if (count > 0)
        m.read(s, v);
      else if (P::may_hear_nothing[s])
        m.silent(s);
      else
        m.sense(s, v);
    });
    if (!nobody(v)) down.set(sensor, v > 0.5);
  }

  // A sensor that knows its zone itself.
  void sees(int sensor, const char *zone) {
    machines.each([&](auto &m, auto i) {
      using P = typename R::template Of<decltype(i)::value>;
      const int s = P::own_sensor[sensor];
      if (s < 0) return;
      m.at(now);
      int k = -1;
      for (int z = 0; z < P::zones; z++)
        if (same_words(P::zone_name(z), zone)) k = z;
      m.sense_zone(s, k);
    });
  }

  // A move has come to its end by itself.
  void done(int device) {
    machines.each([&](auto &m, auto i) {
      using P = typename R::template Of<decltype(i)::value>;
      m.at(now);
      if (P::own_device[device] >= 0) m.ended(P::own_device[device]);
    });
  }

  void stalls(int device) {
    machines.each([&](auto &m, auto i) {
      using P = typename R::template Of<decltype(i)::value>;
      m.at(now);
      if (P::own_device[device] >= 0) m.stalled(P::own_device[device]);
    });
  }

  void gives_up(int device) {
    machines.each([&](auto &m, auto i) {
      using P = typename R::template Of<decltype(i)::value>;
      m.at(now);
      if (P::own_device[device] >= 0) m.gives_up(P::own_device[device]);
    });
  }

  // How far a device has come: way of a drive in mm, angle in degrees.
  void moved(int device, double mm, double degrees) {
    machines.each([&](auto &m, auto i) {
      using P = typename R::template Of<decltype(i)::value>;
      m.at(now);
      if (P::own_device[device] >= 0 && P::measures_device[P::own_device[device]]) m.moved(P::own_device[device], mm, degrees);
    });
  }

  // A message that came from a program elsewhere; one that nobody knows is not heard.
  void hears(const Message &message) {
    int text = -1, from = -1;
    for (int t = 0; t < R::texts; t++)
      if (same_words(R::text(t), message.text)) text = t;
    for (int p = 0; p < R::names; p++)
      if (same_words(R::name(p), message.program)) from = p;
    machines.each([&](auto &m, auto i) {
      using P = typename R::template Of<decltype(i)::value>;
      if (text < 0 || P::own_text[text] < 0) return;
      m.at(now);
      m.told(P::own_text[text], from < 0 ? -1 : int(P::own_program[from]), message.values, message.count);
    });
  }

  // True while a state of a program is active: its place among all that the program has.
  bool is_on(int program, int node) {
    bool on = false;
    machines.each([&](auto &m, auto i) {
      using P = typename R::template Of<decltype(i)::value>;
      if (i.value == program) on = (P::kind[node] == ATOMIC || P::kind[node] == FINAL) && m.is_on(node);
    });
    return on;
  }

  void order(const Order &o) { hands.act(o); }

  void told_by(int from, int to, int text, const double *values, int count) {
    if (to >= R::programs) {
      Message m = {R::name(to), R::text(text), {}, count < 16 ? count : 16};
      for (int i = 0; i < m.count; i++) m.values[i] = values[i];
      if constexpr (R::tells) hands.send(m);
      return;
    }
    if constexpr (R::network) {
      if (flying == R::most_on_the_way) {
        fault = 4;
        return;
      }
      Flight &f = flights[flying++];
      f.due = now + R::message_micros, f.serial = serial++;
      f.from = int8_t(from), f.to = int8_t(to), f.text = int16_t(text);
      f.count = int8_t(count < R::most_told ? count : R::most_told);
      for (int i = 0; i < f.count; i++) f.values[i] = values[i];
    }
  }

private:
  static constexpr int most_at_once = 1000;
  struct Flight {
    int64_t due;
    uint32_t serial;
    int16_t text;
    int8_t from, to, count;
    double values[one(R::most_told)];
  };

  Hands &hands;
  uint32_t last = 0, serial = 0;
  int flying = 0;
  int64_t next_reading[one(R::sensors)] = {};
  Flags<R::sensors> down;
  Flight flights[R::network ? R::most_on_the_way : 1];
  typename R::template Machines<Rig> machines;

  // The message that arrives first by then: by time, then by sender, then as sent.
  int first_by(int64_t until) const {
    int best = -1;
    for (int f = 0; f < flying; f++) {
      const Flight &x = flights[f];
      if (x.due > until) continue;
      if (best >= 0) {
        const Flight &b = flights[best];
        if (x.due != b.due ? x.due > b.due : x.from != b.from ? x.from > b.from : x.serial > b.serial) continue;
      }
      best = f;
    }
    return best;
  }
};

}  // namespace chiton
