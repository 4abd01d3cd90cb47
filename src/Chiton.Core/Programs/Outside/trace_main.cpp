// Feeds what happened to the programs and prints what they do. For computers, not for boards.
#include "@FILE@.hpp"

#include <cinttypes>
#include <cstdio>
#include <cstdlib>
#include <cstring>

using Code = chiton::@NAME@;

static const char *const verbs[] = {"run",   "drive", "turn", "steer", "follow", "go",   "home", "set",  "step", "stop", "brake",
                                    "coast", "hold",  "on",   "off",   "blink",  "tone", "beep", "play", "show", "zero"};
static const char *const units[] = {"", "%", "mm", "mm/s", "s", "Hz", "deg", "deg/s", "motor deg", "wheel deg", "robot deg", "steps"};

static int64_t told_at = -1;
static chiton::Rig<Code, struct Hands> *all = nullptr;

struct Hands {
  int read(int, double *) { return 0; }
  uint32_t micros() { return 0; }
  bool receive(chiton::Message &) { return false; }
  void act(const chiton::Order &o) {
    when();
    std::printf("do %s %s", o.device < 0 ? "display" : Code::device(o.device), verbs[int(o.verb)]);
    number(o.value, units[int(o.unit)]);
    number(o.amount, units[int(o.amount_unit)]);
    if (o.seconds > 0) std::printf(" for %.6g s", o.seconds);
    if (*o.words) std::printf(" %s", o.words);
    std::printf("\n");
  }
  void send(const chiton::Message &m) {
    when();
    std::printf("tell %s %s", m.program, m.text);
    for (int i = 0; i < m.count; i++) number(m.values[i], "");
    std::printf("\n");
  }
  static void number(double v, const char *unit) {
    if (v == v) std::printf(" %.6g%s%s", v + 0.0, *unit ? " " : "", unit);
  }
  static void when();
};

void Hands::when() {
  if (all->now == told_at) return;
  told_at = all->now;
  std::printf("at %" PRId64 "\n", told_at);
}

// Names have blanks in them: the longest one that the line begins with.
template <class Name> static int begins(char *&line, int count, Name name) {
  int best = -1;
  size_t most = 0;
  for (int i = 0; i < count; i++) {
    const size_t n = std::strlen(name(i));
    if (n >= most && std::strncmp(line, name(i), n) == 0 && (line[n] == 0 || line[n] == ' ')) best = i, most = n;
  }
  if (best >= 0) line += most + (line[most] == ' ');
  return best;
}

static bool word(char *&line, const char *what) {
  const size_t n = std::strlen(what);
  if (std::strncmp(line, what, n) != 0 || (line[n] != 0 && line[n] != ' ')) return false;
  line += n + (line[n] == ' ');
  return true;
}

template <class I> static void states(chiton::Rig<Code, Hands> &rig, char (&before)[2000], I) {
  using P = typename Code::template Of<I::value>;
  char now[2000] = "";
  for (int n = 0; n < P::n_first[1]; n++)
    if (rig.is_on(I::value, n) && std::strlen(now) + std::strlen(P::path(n)) + 2 < sizeof now) {
      if (*now) std::strcat(now, "+");
      std::strcat(now, P::path(n));
    }
  if (std::strcmp(before, now) == 0) return;
  std::strcpy(before, now);
  Hands::when();
  std::printf("state %" PRId64 " %s %s\n", rig.now, Code::name(I::value), now);
}

template <int I> static void all_states(chiton::Rig<Code, Hands> &rig) {
  static char before[2000] = "";
  states(rig, before, chiton::At<I>{});
  if constexpr (I + 1 < Code::programs) all_states<I + 1>(rig);
}

static bool happens(chiton::Rig<Code, Hands> &rig, char *line) {
  if (word(line, "pass")) {
    // One thing after the other, so that no state is passed over.
    const int64_t until = std::strtoll(line, nullptr, 10);
    for (int64_t due = rig.next_due(); rig.runs() && due <= until; due = rig.next_due()) {
      rig.let_pass(due);
      all_states<0>(rig);
    }
    rig.let_pass(until);
    return true;
  }
  if (word(line, "seed")) {
    rig.begin(std::strtoull(line, nullptr, 10));
    return true;
  }
  if (word(line, "at")) {
    rig.at(std::strtoll(line, nullptr, 10));
    return true;
  }
  if (word(line, "r")) {
    rig.at(std::strtoll(line, &line, 10));
    while (*line == ' ') line++;
    const int s = begins(line, Code::sensors, Code::sensor);
    if (s < 0) return true;  // a sensor that no sentence asks for
    if (word(line, "-")) {
      rig.reads(s, nullptr, 0);
      return true;
    }
    double value[3] = {chiton::unknown, chiton::unknown, chiton::unknown};
    if (word(line, "lost")) {
      rig.reads(s, value, 1);
      return true;
    }
    char *end = line;
    value[0] = std::strtod(line, &end);
    if (end == line || (*end != 0 && *end != ' ')) {
      rig.sees(s, line);
      return true;
    }
    for (int i = 1; i < Code::width(s); i++) value[i] = std::strtod(end, &end);
    rig.reads(s, value, Code::width(s));
    return true;
  }
  if (word(line, "tell")) {
    chiton::Message m = {"", "", {}, 0};
    const int from = begins(line, Code::names, Code::name);
    m.program = from < 0 ? "" : Code::name(from);
    const int text = begins(line, Code::texts, Code::text);
    if (text < 0) return true;
    m.text = Code::text(text);
    for (char *end = line; m.count < 16; line = end) {
      const double v = std::strtod(line, &end);
      if (end == line) break;
      m.values[m.count++] = v;
    }
    rig.hears(m);
    return true;
  }
  const int what = word(line, "done") ? 0 : word(line, "stalls") ? 1 : word(line, "gives up") ? 2 : word(line, "moved") ? 3 : -1;
  if (what < 0) return false;
  const int d = begins(line, Code::devices, Code::device);
  if (d < 0) return true;
  if (what == 0) rig.done(d);
  else if (what == 1) rig.stalls(d);
  else if (what == 2) rig.gives_up(d);
  else {
    const double mm = std::strtod(line, &line);
    rig.moved(d, mm, std::strtod(line, &line));
  }
  return true;
}

int main() {
  static Hands hands;
  static chiton::Rig<Code, Hands> rig(hands);
  all = &rig;
  rig.begin();
  all_states<0>(rig);
  static char line[1000];
  while (rig.runs() && std::fgets(line, sizeof line, stdin)) {
    line[std::strcspn(line, "\r\n")] = 0;
    if (*line == 0 || *line == '#') continue;
    if (!happens(rig, line)) std::fprintf(stderr, "not understood: %s\n", line);
    all_states<0>(rig);
  }
  std::printf(rig.runs() ? "goes on\n" : rig.fault ? "fault\n" : "ended\n");
}
