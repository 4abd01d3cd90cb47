// Runs the programs and speaks the line (the page "The line" says what goes over it). Fill in what is yours below; as it stands it is
// built on a computer, talks on its own input and output, and every sensor reads 0.
#include "@FILE@.hpp"

#include <cinttypes>
#include <cstdio>
#include <cstdlib>
#include <cstring>

#include <chrono>
#include <poll.h>
#include <unistd.h>

using Code = chiton::@NAME@;

// ---- yours ----

// True once the pins below are real: until then the desk is told that this is a stand-in.
static const bool real = false;

// What a sensor reads now: 1 number, or 3 of a colour; 0 where it hears nothing. Sensors are numbered as in @NAME@_sensors.
static int pin_read(int sensor, double *value) {
  (void)sensor;
  value[0] = value[1] = value[2] = 0;
  return Code::width(sensor);
}

// Does what a device is told. Call arrived(device) once a move with an amount has come to its end, stuck(device) when it stalls.
static void pin_act(const chiton::Order &order) { (void)order; }

// What the pack gives, V; less than 0 where nobody knows.
static double pin_battery() { return -1; }

static uint32_t pin_micros() {
  using namespace std::chrono;
  return uint32_t(duration_cast<microseconds>(steady_clock::now().time_since_epoch()).count());
}

// The next sign that came, -1 while none has, -2 when the line is gone.
static int wire_read() {
  static char bytes[512];
  static int count = 0, at = 0;
  if (at == count) {
    pollfd in = {0, POLLIN, 0};
    if (poll(&in, 1, 1) <= 0) return -1;
    count = int(read(0, bytes, sizeof bytes)), at = 0;
    if (count <= 0) return -2;
  }
  return (unsigned char)bytes[at++];
}

static void wire_say(const char *line) {
  std::fputs(line, stdout);
  std::fputc('\n', stdout);
  std::fflush(stdout);
}

// ---- the line ----

static const char *const verbs[] = {"run",   "drive", "turn", "steer", "follow", "go",   "home", "set",  "step", "stop", "brake",
                                    "coast", "hold",  "on",   "off",   "blink",  "tone", "beep", "play", "show", "zero"};
static const char *const units[] = {"", "%", "mm", "mm/s", "s", "Hz", "deg", "deg/s", "motor deg", "wheel deg", "robot deg", "steps"};

static char said[220];
#define SAY(...) (std::snprintf(said, sizeof said, __VA_ARGS__), wire_say(said))

struct Listened {
  bool wanted;
  int64_t due;
};

struct Hands;
static chiton::Rig<Code, Hands> *rig = nullptr;
static bool running = false;
static int64_t now = 0;
static Listened sensors[Code::sensors > 0 ? Code::sensors : 1];
static int64_t ends[Code::devices > 0 ? Code::devices : 1];

static void tell_reading(int s, const double *value, int count) {
  if (count == 0) SAY("r %" PRId64 " %s -", now, Code::sensor(s));
  else if (count == 1) SAY("r %" PRId64 " %s %.6g", now, Code::sensor(s), value[0]);
  else SAY("r %" PRId64 " %s %.6g %.6g %.6g", now, Code::sensor(s), value[0], value[1], value[2]);
}

struct Hands {
  int read(int s, double *value) {
    const int count = pin_read(s, value);
    if (sensors[s].wanted) tell_reading(s, value, count);
    return count;
  }
  uint32_t micros() { return pin_micros(); }
  void act(const chiton::Order &o) { pin_act(o); }
  void send(const chiton::Message &) {}
  bool receive(chiton::Message &) { return false; }
};

// A move has come to its end by itself; a device is told to move and does not.
[[maybe_unused]] static void arrived(int device) {
  SAY("done %s", Code::device(device));
  if (running) rig->done(device);
}
[[maybe_unused]] static void stuck(int device) {
  SAY("stalls %s", Code::device(device));
  if (running) rig->stalls(device);
}

template <int I> static void states(bool over) {
  static char before[160] = "";
  char is[160] = "";
  using P = typename Code::template Of<I>;
  if (over) std::strcpy(is, "-");
  else
    for (int n = 0; n < P::n_first[1]; n++)
      if (rig->is_on(I, n) && std::strlen(is) + std::strlen(P::path(n)) + 2 < sizeof is) {
        if (*is) std::strcat(is, "+");
        std::strcat(is, P::path(n));
      }
  if (std::strcmp(before, is) != 0 && !(over && *before == 0)) {
    std::strcpy(before, is);
    SAY("state %" PRId64 " %s %.150s", now, Code::name(I), is);
  }
  if constexpr (I + 1 < Code::programs) states<I + 1>(over);
}

static void hello() {
  SAY("chiton 1 %s%s", @RIG@, real ? "" : " stand-in");
  for (int s = 0; s < Code::sensors; s++) SAY("have %s sensor %.6g", Code::sensor(s), double(Code::period(s)) / 1000);
  if (*@HOLDS@) SAY("holds %s", @HOLDS@);
  if (pin_battery() >= 0) SAY("battery %.3g", pin_battery());
}

static void stop_all() {
  for (int d = 0; d < Code::devices; d++) {
    ends[d] = 0;
    pin_act({d, chiton::Verb::stop, chiton::Unit::none, chiton::Unit::none, chiton::unknown, chiton::unknown, 0, ""});
  }
}

static bool word(const char *&line, const char *what) {
  const size_t n = std::strlen(what);
  if (std::strncmp(line, what, n) != 0 || (line[n] != 0 && line[n] != ' ')) return false;
  line += n;
  while (*line == ' ') line++;
  return true;
}

// Names have blanks in them: the longest one that the line begins with.
template <class Name> static int begins(const char *&line, int count, Name name) {
  int best = -1;
  for (int i = 0; i < count; i++) {
    const char *at = line;
    if (word(at, name(i)) && (best < 0 || std::strlen(name(i)) > std::strlen(name(best)))) best = i;
  }
  if (best >= 0) word(line, name(best));
  return best;
}

static double number(const char *&line, chiton::Unit &unit) {
  char *end = nullptr;
  const double value = std::strtod(line, &end);
  if (end == line || (*end != 0 && *end != ' ')) return chiton::unknown;
  for (line = end; *line == ' '; line++) {}
  int best = 0;
  for (int u = 1; u < 12; u++) {
    const char *at = line;
    if (word(at, units[u]) && std::strlen(units[u]) > std::strlen(units[best])) best = u;
  }
  if (best) word(line, units[best]);
  unit = chiton::Unit(best);
  return value;
}

static const char *order(const char *line) {
  const int d = begins(line, Code::devices, Code::device);
  if (d < 0) return "I have no such device.";
  int verb = 0;
  while (verb < 21 && !word(line, verbs[verb])) verb++;
  if (verb == 21) return "I know no such order.";
  chiton::Order o = {d, chiton::Verb(verb), chiton::Unit::none, chiton::Unit::none, chiton::unknown, chiton::unknown, 0, ""};
  o.value = number(line, o.unit);
  if (o.value == o.value) o.amount = number(line, o.amount_unit);
  if (word(line, "for")) {
    chiton::Unit unit = chiton::Unit::none;
    o.seconds = number(line, unit);
    if (!(o.seconds >= 0 && unit == chiton::Unit::s)) return "Say for how many s.";
  }
  o.words = line;
  pin_act(o);
  ends[d] = o.seconds > 0 ? now + int64_t(o.seconds * 1e6) : 0;
  return nullptr;
}

static const char *answer(const char *line) {
  if (word(line, "?")) {
    if (*line == 0) hello();
    else if (std::strcmp(line, "battery") == 0) {
      if (pin_battery() < 0) return "I do not know what my pack gives.";
      SAY("battery %.3g", pin_battery());
    } else if (std::strcmp(line, "holds") == 0) SAY("holds %s", @HOLDS@);
    else if (std::strcmp(line, "start") == 0) {
      if (running) return "It runs already.";
      rig->begin(), running = true;
    } else if (std::strcmp(line, "stop") == 0) {
      if (running) states<0>(true);
      running = false, stop_all();
    } else if (std::strcmp(line, "there") != 0) return "I know: there, holds, battery, start, stop.";
    return nullptr;
  }
  const bool wanted = word(line, "tell");
  if (wanted || word(line, "quiet")) {
    const int s = begins(line, Code::sensors, Code::sensor);
    if (s < 0 || *line) return "I have no such sensor.";
    sensors[s].wanted = wanted, sensors[s].due = now;
    return nullptr;
  }
  if (word(line, "do")) return order(line);
  return "I do not know that.";
}

int main() {
  static Hands hands;
  static chiton::Rig<Code, Hands> all(hands);
  rig = &all;
  uint32_t last = pin_micros();
  static char line[220];
  size_t count = 0;
  hello();
  for (;;) {
    for (int c = wire_read(); c != -1; c = wire_read()) {
      if (c == -2) return 0;
      if (c != '\n') {
        if (count < sizeof line) line[count++] = char(c);
        continue;
      }
      if (count > 0 && count <= 200 && line[count - 1] == '\r') count--;
      const bool fits = count <= 200;
      line[fits ? count : 0] = 0, count = 0;
      const char *no = fits ? (*line ? answer(line) : "") : "A line has at most 200 characters.";
      if (no == nullptr) wire_say("ok");
      else if (*no) SAY("no %s", no);
    }
    const uint32_t time = pin_micros();
    now += uint32_t(time - last), last = time;
    if (running) {
      const bool goes_on = rig->step();
      states<0>(false);
      if (!goes_on) states<0>(true), running = false;
    } else
      for (int s = 0; s < Code::sensors; s++)
        if (sensors[s].wanted && now >= sensors[s].due) {
          sensors[s].due += Code::period(s);
          if (sensors[s].due <= now) sensors[s].due = now + Code::period(s);
          double value[3] = {chiton::unknown, chiton::unknown, chiton::unknown};
          const int n = pin_read(s, value);
          tell_reading(s, value, n);
        }
    for (int d = 0; d < Code::devices; d++)
      if (ends[d] && now >= ends[d]) {
        ends[d] = 0;
        pin_act({d, chiton::Verb::stop, chiton::Unit::none, chiton::Unit::none, chiton::unknown, chiton::unknown, 0, ""});
        arrived(d);
      }
  }
}
