// Feeds what happened to programs and says what they did: a line for each thing that happened.
#include <cinttypes>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <new>
#include <string>

// Taking memory while a program runs is counted: there must be none of it.
extern long taken_memory;

struct Board {
  std::string said;
  static std::string number(double v) {
    if (v != v) return "nan";
    v += 0.0;
    int64_t bits;
    std::memcpy(&bits, &v, sizeof bits);
    return std::to_string(bits);
  }
  void command(int64_t now, int unit, int activity, int device, double value, double second, int64_t lasts) {
    if (silent) return;
    const long before = taken_memory;
    said += " c" + std::to_string(now) + "/" + std::to_string(unit) + "/" + std::to_string(activity) + "/" + std::to_string(device) + "/" +
            number(value) + "/" + number(second) + "/" + std::to_string(lasts);
    taken_memory = before;
  }
  void tell(int64_t, int program, int text, const double *values, int count) {
    if (silent) return;
    const long before = taken_memory;
    said += " m" + std::to_string(program) + "/" + std::to_string(text) + "/";
    for (int i = 0; i < count; i++) said += (i ? "," : "") + number(values[i]);
    taken_memory = before;
  }
  void took(int64_t now, int step) {
    if (silent) return;
    const long before = taken_memory;
    said += " t" + std::to_string(now) + "/" + std::to_string(step);
    taken_memory = before;
  }
  bool silent = false;
};

template <class P> void line(const chiton::Machine<P, Board> &m, Board &board, const char *const *paths, FILE *out) {
  std::string states;
  for (int n = 0; n < P::n_first[1]; n++)
    if (m.is_on(n) && (P::kind[n] == chiton::ATOMIC || P::kind[n] == chiton::FINAL)) states += (states.empty() ? "" : "+") + std::string(paths[n]);
  std::fprintf(out, "%" PRId64 " %s %s %s |", m.now, m.fault ? "fault" : "-", m.finished ? "end" : "-", states.c_str());
  for (int i = 0; i < P::variables; i++) std::fprintf(out, " %s", Board::number(m.var[i]).c_str());
  std::fprintf(out, " |%s\n", board.said.empty() ? " " : board.said.c_str());
  board.said.clear();
}

inline double value(const char *word) { return std::strcmp(word, "lost") == 0 ? NAN : std::strtod(word, nullptr); }

template <class P> void drive(const char *name, const char *const *paths, const char *folder, FILE *out) {
  Board board;
  std::fprintf(out, "= %s\n", name);
  FILE *in = std::fopen((std::string(folder) + "/" + name + ".events").c_str(), "r");
  const long before = taken_memory;
  static chiton::Machine<P, Board> m(board);
  m.start();
  long own = taken_memory - before;
  line(m, board, paths, out);
  char words[2000];
  while (std::fgets(words, sizeof words, in)) {
    char *w[40] = {};
    int n = 0;
    for (char *p = std::strtok(words, " \n"); p && n < 40; p = std::strtok(nullptr, " \n")) w[n++] = p;
    if (n == 0) continue;
    const std::string what = w[0];
    double values[32] = {};
    for (int i = 3; i < n; i++) values[i - 3] = value(w[i]);
    const long then = taken_memory;
    if (what == "pass") m.pass_until(m.now + std::strtoll(w[1], nullptr, 10));
    else if (what == "told") m.told(std::atoi(w[1]), std::atoi(w[2]), values, n - 3);
    else if (what == "zone") m.see_zone(std::atoi(w[1]), std::atoi(w[2]));
    else if (what == "read") m.read(std::atoi(w[1]), value(w[2]));
    else if (what == "sense") m.sense(std::atoi(w[1]), value(w[2]));
    else if (what == "sense_zone") m.sense_zone(std::atoi(w[1]), std::atoi(w[2]));
    else if (what == "silent") m.silent(std::atoi(w[1]));
    else if (what == "ended") m.ended(std::atoi(w[1]));
    else if (what == "gives_up") m.gives_up(std::atoi(w[1]));
    else if (what == "stalled") m.stalled(std::atoi(w[1]));
    else if (what == "moved") m.moved(std::atoi(w[1]), value(w[2]), value(w[3]));
    own += taken_memory - then;
    line(m, board, paths, out);
  }
  std::fclose(in);
  if (own != 0) std::fprintf(out, "took memory %ld times\n", own);
}
