// How a program is stepped: one thing that happens after the other, each to its end. Time is in microseconds since the start.
// Nothing here waits, asks a clock, takes memory or throws: all there is has its place from the beginning.
#include <cmath>
#include <cstdint>

namespace chiton {

constexpr int64_t never = INT64_MAX;
constexpr int64_t no_tap = -(int64_t(1) << 62);
constexpr int64_t tap_micros = 500000;
constexpr int64_t twice_micros = 600000;
constexpr int most_steps = 1000;
constexpr int32_t most_actions = 100000;
constexpr int most_queued = 100;
constexpr double unknown = NAN;

enum : uint8_t { ATOMIC, COMPOUND, PARALLEL, FINAL, SHALLOW, DEEP };
enum : uint8_t { LEVEL, EDGE, LEAVE, PRESS, STALL, GIVE_UP, TOLD, SILENCE, AFTER, EVERY, ALWAYS };
enum : uint8_t {
  THEN, TOGETHER, REPEAT, IF, SET, PUSH, TAKE, TELL, ZERO, TEACH, SHOW, LAMP_ON, LAMP_OFF, STOP, STOP_ALL, MOVE, ROUTINE
};
enum : uint8_t { PRESSED, RELEASED, TAPPED, TAPPED_TWICE, HELD };
enum : uint8_t {
  NOTHING, H_ZONE, H_READING, H_SENSED, H_PRESS, H_TIMER, H_ENDED, H_GAVE_UP, H_STALLED, H_TOLD, H_START
};
enum : uint8_t { IDLE, GOING, ENDED, DROPPED };

inline bool holds(double v) { return v < 0 || v > 0; }
inline bool nobody(double v) { return v != v; }
inline double least(double a, double b) { return nobody(a) || nobody(b) ? unknown : a < b ? a : b; }
inline double most(double a, double b) { return nobody(a) || nobody(b) ? unknown : a > b ? a : b; }

// Halves go to the even one, as a processor rounds that nobody has told otherwise.
inline double even(double v) { return std::nearbyint(v); }

// Halves go away from zero.
inline double away(double v) { return std::round(v); }

inline int64_t micros(double seconds) {
  if (nobody(seconds)) return 0;
  if (seconds < 0) seconds = 0;
  if (seconds > 1e9) seconds = 1e9;
  return int64_t(even(seconds * 1e6));
}

inline double stick_share(double angle, double dead) {
  if (nobody(angle) || std::fabs(angle) <= dead || dead >= 90) return 0;
  double part = (std::fabs(angle) - dead) / (90 - dead);
  if (part > 1) part = 1;
  return angle > 0 ? part : -part;
}

// Whole numbers as small as they may be.
template <int Most, bool Byte = (Most < 120), bool Word = (Most < 32000)> struct Small { using type = int16_t; };
template <int Most> struct Small<Most, true, true> { using type = int8_t; };
template <int Most> struct Small<Most, false, false> { using type = int32_t; };

// A bit a number, eight in a byte.
inline bool bit(const uint8_t *b, int i) { return (b[i >> 3] >> (i & 7)) & 1; }
inline void put_bit(uint8_t *b, int i, bool on) {
  const int mask = 1 << (i & 7);
  b += i >> 3;
  *b = uint8_t(on ? *b | mask : *b & ~mask);
}
template <int N> struct Bits {
  uint8_t b[(N + 7) / 8 + (N == 0)];
  bool get(int i) const { return bit(b, i); }
  void set(int i, bool on) { put_bit(b, i, on); }
};

// A byte a number, where that is less to do than it is to store.
template <int N> struct Flags {
  bool b[N + (N == 0)];
  bool get(int i) const { return b[i]; }
  bool operator[](int i) const { return b[i]; }
  void set(int i, bool on) { b[i] = on; }
  void clear() {
    for (auto &x : b) x = false;
  }
};

// A few numbers, in the order in which they came; the last takes the place of one that goes.
template <int N, class I> struct Few {
  I items[N + (N == 0)];
  I count;
  int size() const { return N ? count : 0; }
  int find(int x) const {
    for (int i = 0; i < size(); i++)
      if (items[i] == x) return i;
    return -1;
  }
  void add(int x) {
    if (find(x) < 0) items[count++] = I(x);
  }
  void remove(int x) {
    const int at = find(x);
    if (at >= 0) items[at] = items[--count];
  }
};

struct List {
  uint16_t at;
  uint8_t count;
};

// Tables whose entries are all alike need no room, and what they rule out no code.
template <int V> struct Same {
  constexpr int operator[](int) const { return V; }
};
struct NoLists {
  constexpr List operator[](int) const { return {0, 0}; }
};
template <class At, int N> struct Lists {
  At at[N];
  uint8_t count[N];
  constexpr List operator[](int i) const { return {at[i], count[i]}; }
};

constexpr int one(int n) { return n < 1 ? 1 : n; }

// Room for so many; for none it takes none.
template <class T, int N> struct Room {
  T items[N];
  T &operator[](int i) { return items[i]; }
  const T &operator[](int i) const { return items[i]; }
};
template <class T> struct Room<T, 0> {
  T &operator[](int) const {
    static T nobody_asks;
    return nobody_asks;
  }
};

// The zone that one sentence holds: it changes once enough readings in a row point to the same other one.
struct Follower {
  int8_t held, candidate;
  int16_t count;
  void hold(int zone) {
    held = int8_t(zone);
    restart();
  }
  void restart() { candidate = -1, count = 0; }
  bool take_zone(int zone, int needed) {
    if (zone < 0 || zone == held) {
      restart();
      return false;
    }
    count = int16_t(zone == candidate ? count + 1 : 1);
    candidate = int8_t(zone);
    if (count < needed) return false;
    held = int8_t(zone);
    restart();
    return true;
  }
};

// Zones by rising readings: between each two a threshold with half a band about it.
struct Scale {
  const int8_t *zones;
  const double *thresholds, *bands, *means;
  int8_t count;
  int first(double reading) const {
    int z = 0;
    while (z < count - 1 && reading > thresholds[z]) z++;
    return z;
  }
  int from(int held, double reading) const {
    int z = held;
    while (z < count - 1 && reading > thresholds[z] + bands[z]) z++;
    if (z != held) return z;
    while (z > 0 && reading < thresholds[z - 1] - bands[z - 1]) z--;
    return z;
  }
  double band_near(double value) const {
    int best = 0;
    for (int i = 1; i < count - 1; i++)
      if (std::fabs(thresholds[i] - value) < std::fabs(thresholds[best] - value)) best = i;
    return count > 1 ? bands[best] : 0;
  }
  int index(int zone) const {
    for (int i = 0; i < count; i++)
      if (zones[i] == zone) return i;
    return -1;
  }
};

inline bool take(Follower &f, const Scale &s, double reading, int needed) {
  if (nobody(reading)) {
    f.restart();
    return false;
  }
  if (f.held < 0) {
    f.held = int8_t(s.first(reading));
    return false;
  }
  return f.take_zone(s.from(f.held, reading), needed);
}

inline bool take_edge(Follower &f, const Scale &s, double reading, int needed) {
  if (f.held >= 0 || nobody(reading)) return take(f, s, reading, needed);
  return f.take_zone(s.first(reading), needed);
}

// What a sensor was shown in this run, and its zones since; all of it in place.
template <int Z> struct Taught {
  double sum;
  int32_t count;
  bool looking, cannot_tell, own, tells;
  int8_t shown_count, shown_zone[Z + 1];
  double shown_at[Z + 1];
  int8_t zones[Z + 1], zone_count;
  double thresholds[Z + 1], bands[Z + 1], means[Z + 1];

  Scale scale() const { return {zones, thresholds, bands, means, zone_count}; }

  static double follow(const double *before, const double *now, int n, double at) {
    if (n == 0) return at;
    if (at <= before[0]) return at + now[0] - before[0];
    for (int i = 1; i < n; i++)
      if (at <= before[i]) return now[i - 1] + (at - before[i - 1]) / (before[i] - before[i - 1]) * (now[i] - now[i - 1]);
    return at + now[n - 1] - before[n - 1];
  }

  bool apart() const {
    if (zone_count < 2) return false;
    for (int i = 0; i + 1 < zone_count; i++) {
      const double low = thresholds[i] - bands[i], high = thresholds[i] + bands[i];
      if (!(means[i] < means[i + 1]) || low < means[i] || high > means[i + 1]) return false;
      if (i > 0 && !(thresholds[i] > thresholds[i - 1])) return false;
    }
    return true;
  }

  // All zones by where they are now, with the thresholds half way.
  bool anew(const Scale *known, const double *before, const double *now, int anchors) {
    zone_count = 0;
    for (int i = 0; i < shown_count; i++) put(shown_zone[i], shown_at[i]);
    if (anchors >= 0 && known)
      for (int i = 0; i < known->count; i++) {
        bool shown = false;
        for (int k = 0; k < shown_count; k++) shown |= shown_zone[k] == known->zones[i];
        if (!shown) put(known->zones[i], follow(before, now, anchors, known->means[i]));
      }
    double band = -1;
    if (known)
      for (int i = 0; i + 1 < known->count; i++)
        if (known->bands[i] > band) band = known->bands[i];
    for (int i = 0; i + 1 < zone_count; i++) {
      thresholds[i] = (means[i] + means[i + 1]) / 2;
      bands[i] = band < 0 ? (means[i + 1] - means[i]) * 0.125 : band;
    }
    return apart();
  }

  void put(int zone, double at) {
    int i = zone_count++;
    for (; i > 0 && means[i - 1] > at; i--) {
      means[i] = means[i - 1];
      zones[i] = zones[i - 1];
    }
    means[i] = at;
    zones[i] = int8_t(zone);
  }

  bool make(const Scale *known) {
    for (int i = 0; i < shown_count; i++)
      if (nobody(shown_at[i] - shown_at[i])) return false;
    double before[Z + 1], now[Z + 1];
    int n = 0;
    if (known)
      for (int i = 0; i < known->count; i++)
        for (int k = 0; k < shown_count; k++)
          if (shown_zone[k] == known->zones[i]) before[n] = known->means[i], now[n++] = shown_at[k];
    for (int i = 1; i < n; i++)
      if (!(now[i] > now[i - 1])) return n == known->count ? anew(known, before, now, -1) : false;
    if (!known || shown_count > n) return anew(known, before, now, n);
    zone_count = known->count;
    for (int i = 0; i < known->count; i++) {
      zones[i] = known->zones[i];
      means[i] = follow(before, now, n, known->means[i]);
      if (i + 1 < known->count) thresholds[i] = follow(before, now, n, known->thresholds[i]), bands[i] = known->bands[i];
    }
    return apart();
  }
};

// Steps a program. The board gets what it does: command(), tell() and took(). It begins with start().
template <class P, class Board> class Machine {
public:
  using M = Machine;
  using Node = typename Small<P::nodes>::type;
  using Step = typename Small<P::transitions>::type;
  using Act = typename Small<P::activities>::type;

  // What a program has none of is not looked for.
  static bool a_finite(int a) { return P::a_flags[a] & 1; }
  static bool a_judged(int a) { return P::a_flags[a] & 2; }
  static bool a_limited(int a) { return P::a_flags[a] & 4; }
  static bool a_stops(int a) { return P::a_flags[a] & 8; }
  static bool t_said(int t) { return P::t_flags[t] & 1; }
  static bool t_watch(int t) { return P::t_flags[t] & 2; }
  static bool inside(int t) { return P::t_flags[t] & 4; }
  static bool level(int t) { return P::t_flags[t] & 8; }
  template <uint8_t K> static constexpr bool waits = (P::t_kinds >> K & 1) != 0;
  template <uint8_t K> static constexpr bool does = (P::a_kinds >> K & 1) != 0;
  template <uint8_t K> static bool n_is(int n) { return (P::n_kinds >> K & 1) && P::kind[n] == K; }
  template <uint8_t K> static bool t_is(int t) { return waits<K> && P::t_kind[t] == K; }
  template <uint8_t K> static bool a_is(int a) { return does<K> && P::a_kind[a] == K; }

  static constexpr int N = P::nodes, T = P::transitions, A = P::activities, U = P::units, S = P::sensors, D = P::devices;

  struct Work {
    Act a;
    Node state;
  };

  Board &board;
  int64_t now;
  double var[one(P::variables)];
  double readings[S + 1];
  Room<double, P::measures ? D : 0> travel, angle;
  // What follows is its own.
  uint64_t luck;
  // States of which only one can be active share their places for what is due.
  int64_t t_due[one(P::timers_count)];
  Room<int64_t, P::holds_count> since;
  // A device does one thing that ends at a time.
  int64_t a_due[one(P::endings)];
  Room<double, P::lasts ? D : 0> last_value, last_second;
  Room<int64_t, P::holds_count ? S : 0> zone_since;
  Room<int64_t, P::taps ? S : 0> down_since, last_tap;
  Room<Taught<P::most_zones>, P::taughts> taught;
  Room<double[most_queued], P::queues> queues;
  Room<double, P::most_values> message;
  uint32_t serial;
  Room<uint32_t, P::taps> entered_at;
  Room<int32_t, P::nexts> next;
  Room<uint32_t, P::taps ? S : 0> down_serial;
  int32_t transitions_now, actions_now;
  Room<int16_t, P::counts> counted;
  Room<Follower, P::edges> edges;
  int16_t lasting_count;
  int16_t crossing[one(P::marks)];
  Follower followers[one(P::trackers)];
  int16_t judging_node;
  int16_t what_sensor, what_device, what_text, what_from, timer;
  int16_t work_count;
  int8_t held[one(P::trackers)];
  Flags<S> known, silent_now, blind, down;
  Flags<D> done, given_up, stop_pending;
  bool finished;
  // 0 while it runs well; 1 for going round and round, 2 for too much at one moment, 3 for a queue that is full.
  uint8_t fault;
  Flags<U> active, running, changed_in;
  Flags<N> on, entering, defaulted, leaving;
  Bits<(P::histories ? N * P::histories : 0)> memory;
  Bits<P::histories> has_memory;
  Step content[one(P::histories ? N : 0)];
  Act caller[U];
  Step timer_at[one(P::timers_count)];
  Act ending_at[one(P::endings)];
  Few<P::watches, Step> watching;
  Flags<T> spent, edge_fired;
  int8_t edge_from[one(P::edges)], edge_to[one(P::edges)];
  uint8_t status[one(A)];
  Node started_by[one(A)];
  Act lasting[one(P::lastings)];
  Flags<S> lost_now;
  int8_t side[one(P::marks)];
  Act owner[one(D)];
  int8_t queue_counts[one(P::queues)];
  int8_t message_count, judging, zone_before;
  uint8_t what, what_press;
  bool halted;
  Work work[P::most_work];

  explicit Machine(Board &b) : board(b) {}

  void start(uint64_t seed = 1) {
    // All that changes lies between the time and the work: a start makes nothing of it.
    const auto end = reinterpret_cast<uint8_t *>(work);
    for (auto b = reinterpret_cast<uint8_t *>(&now); b < end; b++) *b = 0;
    luck = seed * 0x9E3779B97F4A7C15ull + 0x1234567;
    for (int s = 0; s < S; s++) readings[s] = unknown, known.set(s, P::is_switch[s]);
    if constexpr (P::taps > 0)
      for (int i = 0; i < S; i++) last_tap[i] = no_tap;
    for (int i = 0; i < P::trackers; i++) {
      held[i] = int8_t(P::is_switch[P::tracker_sensor[i]] ? P::up : -1);
      followers[i].hold(-1);
    }
    for (int i = 0; i < P::marks; i++) side[i] = -1;
    for (int t = 0; t < P::taughts; t++) taught[t].tells = true;
    for (int d = 0; d < D; d++) owner[d] = -1;
    for (auto &d : t_due) d = never;
    for (auto &d : a_due) d = never;
    judging = zone_before = -1;
    what_sensor = what_device = what_text = what_from = timer = -1;
    for (int i = 0; i < P::initials; i++) var[P::initial_slot[i]] = eval(P::initial_value[i]);
    for (int u = 0; u < U; u++) clear(u);
    run(H_START, 0, -1);
  }

  int64_t next_due() const {
    int64_t due = never;
    for (int u = 0; u < U; u++)
      if (due_of(u) < due) due = due_of(u);
    return due;
  }

  void at(int64_t micros_now) {
    if (micros_now > now) now = micros_now;
  }

  // Lets time pass: what is due until then happens at its time, by due time and then in document order.
  void pass_until(int64_t until) {
    while (!fault && !finished) {
      int unit = -1;
      int64_t due = never;
      for (int u = 0; u < U; u++) {
        const int64_t d = due_of(u);
        if (d < due) unit = u, due = d;
      }
      if (unit < 0 || due > until) break;
      if (due > now) {
        now = due;
        new_moment();
      }
      const int a = due_activity(unit);
      if (a >= 0) {
        what_device = P::a_device[a];
        run(a_limited(a) ? H_GAVE_UP : H_ENDED, unit, a);
        continue;
      }
      const int t = due_transition(unit);
      if (t >= 0) {
        timer = t;
        run(H_TIMER);
        timer = -1;
      }
    }
    at(until);
  }

  bool gives_up(int device) {
    const int a = owner[device];
    if (a < 0 || !is_finite_move(a)) return false;
    new_moment();
    what_device = int16_t(device);
    run(H_GAVE_UP, P::a_in[a], a);
    return true;
  }

  bool ended(int device) {
    const int a = owner[device];
    if (a < 0 || !is_finite_move(a)) return false;
    new_moment();
    run(H_ENDED, P::a_in[a], a);
    return true;
  }

  void stalled(int device) {
    new_moment();
    what_device = int16_t(device);
    run(H_STALLED);
  }

  void moved(int device, double travel_mm, double angle_deg) {
    new_moment();
    if constexpr (P::measures) travel[device] = travel_mm, angle[device] = angle_deg;
    run(H_READING);
  }

  void told(int text, int from, const double *values, int count) {
    new_moment();
    what_text = int16_t(text);
    what_from = int16_t(from);
    message_count = int8_t(count < P::most_values ? count : P::most_values);
    for (int i = 0; i < message_count; i++) message[i] = values[i];
    for (int u = 0; u < U; u++)
      if (active.get(u)) heard(u, text);
    run(H_TOLD);
  }

  void see_zone(int sensor, int zone) {
    new_moment();
    was_heard(sensor);
    if (teaches(sensor) >= 0) taught[teaches(sensor)].cannot_tell = false;
    if (held[sensor] == zone) {
      reread(sensor);
      return;
    }
    zone_before = held[sensor];
    seen_from_now(sensor);
    for (int i = 0; i < P::trackers; i++)
      if (P::tracker_sensor[i] == sensor) held[i] = int8_t(zone), followers[i].hold(followed(sensor, zone));
    what_sensor = int16_t(sensor);
    for (int u = 0; u < U; u++)
      if (active.get(u)) see_edges(u, sensor, zone);
    if (P::is_switch[sensor]) press(sensor, zone == P::down_zone);
    else run(H_ZONE);
  }

  void silent(int sensor) { hears_nothing(sensor, true); }

  // A reading; what is no number is a reading that was lost.
  void sense(int sensor, double reading) {
    if (finished || fault || says_nothing(sensor, reading)) return;
    new_moment();
    bool changed = false;
    const bool lost = nobody(reading);
    if (!lost) {
      was_heard(sensor);
      if (lost_now.get(sensor)) seen_from_now(sensor), changed = true;
    }
    cross(sensor, reading);
    Scale scale;
    if (scale_of(sensor, scale)) {
      for (int i = 0; i < P::trackers; i++) {
        if (P::tracker_sensor[i] != sensor) continue;
        Follower &f = followers[i];
        const bool first = f.held < 0;
        if (!take(f, scale, reading, P::tracker_needed[i]) && !(first && f.held >= 0)) continue;
        changed = true;
        held[i] = scale.zones[f.held];
        if (i == sensor) seen_from_now(sensor);
      }
      for (int u = 0; u < U; u++)
        if (active.get(u)) changed |= sense_edges(u, sensor, scale, reading);
    }
    if (lost) {
      lost_now.set(sensor, true);
      for (int u = 0; u < U; u++) miss(u, sensor);
    } else {
      readings[sensor] = reading;
      saw(sensor, reading);
    }
    if (!changed && (!P::numbers[sensor] || lost)) return;
    what_sensor = int16_t(sensor);
    run(H_SENSED);
    edge_fired.clear();
  }

  // A reading of a sensor whose zone is known already, as a colour; -1 for none of them.
  void sense_zone(int sensor, int zone) {
    if (finished || fault) return;
    new_moment();
    was_heard(sensor);
    read_zone(sensor, zone);
  }

  void read(int sensor, double value) {
    if (finished || fault || says_nothing(sensor, value)) return;
    Scale scale;
    if (scale_of(sensor, scale)) {
      sense(sensor, value);
      return;
    }
    new_moment();
    was_heard(sensor);
    readings[sensor] = value;
    saw(sensor, value);
    cross(sensor, value);
    if constexpr (P::bands)
      if (P::reader[sensor] == 1) {
        read_zone(sensor, P::zone_of(sensor, &value));
        return;
      }
    reread(sensor);
  }

  // ---- what sentences ask ----

  bool is_beyond(int mark, int above, int or_equal) const {
    if (P::mark_needed[mark] == 1 && readings[P::mark_sensor[mark]] == P::mark_value[mark]) return or_equal != 0;
    return side[mark] == (above ? 1 : 0);
  }
  double queue_length(int q) const { return queue_counts[q]; }
  bool holds_in(int q, double value) const {
    for (int i = 0; i < queue_counts[q]; i++)
      if (queues[q][i] == value || (nobody(queues[q][i]) && nobody(value))) return true;
    return false;
  }
  bool cannot_tell_of(int sensor) const { return teaches(sensor) >= 0 && taught[teaches(sensor)].cannot_tell; }
  bool is_in(int place) const {
    if (judging >= 0 && P::place[place * U + judging].count > 0) return any_on(P::place[place * U + judging]);
    for (int u = 0; u < U; u++)
      if (active.get(u) && any_on(P::place[place * U + u])) return true;
    return false;
  }
  bool all_done() const {
    if (judging < 0) return false;
    bool any = false;
    const int n = judging_node;
    if (!all_ended(P::entry[n], any) || !all_ended(P::whiles[n], any)) return false;
    for (int t = P::own[n].at; t < P::own[n].at + P::own[n].count; t++)
      if (!all_ended(P::t_roots[t], any)) return false;
    return any;
  }
  double chance() {
    luck ^= luck << 13;
    luck ^= luck >> 7;
    luck ^= luck << 17;
    return double(luck >> 11) * (1.0 / 9007199254740992.0);
  }
  bool is_on(int node) const { return on.get(node); }

private:
  static constexpr uint8_t DETACHED = 4, ORPHAN = 8;
  int stat(int a) const { return status[a] & 3; }
  void stat(int a, int s) { status[a] = uint8_t((status[a] & ~3) | s); }
  bool flag(int a, uint8_t f) const { return (status[a] & f) != 0; }
  void flag(int a, uint8_t f, bool yes) { status[a] = uint8_t(yes ? status[a] | f : status[a] & ~f); }

  // Numbers that never change stand in a list, numbered from -2 downwards.
  double eval(int e) {
    if (e < -1) return P::constants[-2 - e];
    return e < 0 ? 0 : P::template expression<M>(e, *this);
  }
  int64_t in_time(int e) { return now + micros(eval(e)); }
  static auto items(List l) { return P::pool + l.at; }
  void new_moment() { transitions_now = actions_now = 0; }
  void halt(uint8_t why) {
    if (!fault || fault == 3) fault = why;
    halted = true;
  }

  // ---- a program or a routine ----

  void clear(int u) {
    active.set(u, false);
    for (int a = P::a_first[u]; a < P::a_first[u + 1]; a++) {
      status[a] = IDLE;
      started_by[a] = -1;
      ends_at(a, never);
    }
    for (int t = P::t_first[u]; t < P::t_first[u + 1]; t++) {
      arm(t, never);
      if (t_watch(t)) watching.remove(t);
    }
    for (int i = 0; i < lasting_count;)
      if (P::lastings && P::a_in[lasting[i]] == u) forget_lasting(i);
      else i++;
  }

  void begin(int u) {
    active.set(u, true);
    const int8_t before = judging;
    judging = int8_t(u);
    start_chart(u);
    if (halted) return;
    judging = before;
  }

  void stop_unit(int u, bool cancels) {
    if (!active.get(u)) return;
    const int8_t before = judging;
    judging = int8_t(u);
    for (int n = P::n_first[u + 1] - 1; n > P::n_first[u]; n--) {
      if (!on.get(n)) continue;
      exited(n);
      if (halted) return;
      on.set(n, false);
    }
    running.set(u, false);
    judging = before;
    for (int a = P::a_first[u]; a < P::a_first[u + 1]; a++)
      if (stat(a) == GOING) {
        if (cancels) drop(a, true);
        else detach(a);
        if (halted) return;
      }
    active.set(u, false);
  }

  bool look_again(int u) {
    changed_in.set(u, false);
    const int8_t before = judging;
    judging = int8_t(u);
    if (running.get(u)) run_on(u);
    if (halted) return false;
    judging = before;
    do_work(0);
    return changed_in.get(u);
  }

  void fire(int u) {
    const int8_t before = judging;
    judging = int8_t(u);
    if (running.get(u)) {
      Step enabled[P::most_enabled];
      const int n = select(u, false, enabled);
      if (n > 0) step(u, enabled, n);
      if (halted) return;
      run_on(u);
      if (halted) return;
    }
    judging = before;
    do_work(0);
  }

  // ---- the chart ----

  void start_chart(int u) {
    const int root = P::n_first[u];
    for (int n = root; n < P::n_first[u + 1]; n++) {
      on.set(n, false);
      if constexpr (P::histories > 0)
        if (P::history[n] >= 0) has_memory.set(P::history[n], false);
    }
    running.set(u, true);
    begin_entry(u);
    const int d = P::deflt[root];
    if (d >= 0) {
      add_targets(d, root);
      taken(d);
      if (halted) return;
    } else
      add_first(root);
    enter(u);
    if (halted) return;
    run_on(u);
  }

  void run_on(int u) {
    int transient = 0;
    while (running.get(u)) {
      Step enabled[P::most_enabled];
      const int n = select(u, true, enabled);
      if (n == 0) return;
      if (++transient > most_steps) {
        halt(1);
        return;
      }
      step(u, enabled, n);
      if (halted) return;
    }
  }

  int select(int u, bool eventless, Step *enabled) {
    int count = 0;
    for (int leaf = P::n_first[u]; leaf < P::n_first[u + 1]; leaf++) {
      if (!on.get(leaf) || (!n_is<ATOMIC>(leaf) && !n_is<FINAL>(leaf))) continue;
      for (int n = leaf; n >= 0; n = P::parent[n]) {
        bool found = false;
        for (int t = P::own[n].at; t < P::own[n].at + P::own[n].count; t++) {
          if (eventless ? !level(t) || !rises_now(t) : !enabled_by(t)) continue;
          bool there = false;
          if constexpr (P::most_enabled > 1)
            for (int i = 0; i < count; i++) there |= enabled[i] == t;
          if (!there) enabled[count++] = Step(t);
          found = true;
          break;
        }
        if (found) break;
      }
    }
    if constexpr (P::most_enabled > 1)
      if (count > 1) return without_conflicts(enabled, count);
    return count;
  }

  static bool is_inside(int a, int b) { return a > b && a < P::end[b]; }

  int without_conflicts(Step *enabled, int count) {
    Step kept[P::most_enabled];
    int n = 0;
    for (int i = 0; i < count; i++) {
      const int t1 = enabled[i], d1 = domain_of(t1);
      bool preempted = false;
      bool gone[P::most_enabled] = {};
      for (int k = 0; k < n && !preempted; k++) {
        if (!meet(d1, domain_of(kept[k]))) continue;
        if (is_inside(P::source[t1], P::source[kept[k]])) gone[k] = true;
        else preempted = true;
      }
      if (preempted) continue;
      int left = 0;
      for (int k = 0; k < n; k++)
        if (!gone[k]) kept[left++] = kept[k];
      n = left;
      kept[n++] = Step(t1);
    }
    for (int i = 0; i < n; i++) enabled[i] = kept[i];
    return n;
  }

  bool meet(int d1, int d2) const {
    if (d1 < 0 || d2 < 0) return false;
    const int inner = d1 == d2 || is_inside(d1, d2) ? d1 : is_inside(d2, d1) ? d2 : -1;
    if (inner < 0) return false;
    for (int n = inner + 1; n < P::end[inner]; n++)
      if (on.get(n)) return true;
    return false;
  }

  int domain_of(int t) const {
    if (P::targets[t].count == 0) return -1;
    if (!P::free_domains || P::fixed[t] >= 0) return P::fixed[t];
    Flags<N> to = {};
    effective(P::targets[t], to);
    const int source = P::source[t];
    if (inside(t) && n_is<COMPOUND>(source) && all_inside(to, source)) return source;
    int root = source;
    for (int n = P::parent[source]; n >= 0; n = P::parent[n]) {
      root = n;
      if ((P::parent[n] < 0 || n_is<COMPOUND>(n)) && all_inside(to, n)) return n;
    }
    return root;
  }

  bool all_inside(const Flags<N> &nodes, int n) const {
    for (int k = 0; k < N; k++)
      if (nodes.get(k) && !is_inside(k, n)) return false;
    return true;
  }

  void effective(List targets, Flags<N> &to) const {
    for (int i = 0; i < targets.count; i++) {
      const int n = items(targets)[i];
      if (!n_is<SHALLOW>(n) && !n_is<DEEP>(n)) to.set(n, true);
      else if constexpr (P::histories > 0) {
        const int h = P::history[n];
        if (has_memory.get(h)) {
          for (int k = 0; k < N; k++)
            if (memory.get(h * N + k)) to.set(k, true);
        } else if (P::deflt[n] >= 0)
          effective(P::targets[P::deflt[n]], to);
      }
    }
  }

  void step(int u, const Step *enabled, int count) {
    for (int n = P::n_first[u]; n < P::n_first[u + 1]; n++) leaving.set(n, false);
    bool goes = false;
    for (int i = 0; i < count; i++) {
      const int d = domain_of(enabled[i]);
      if (d < 0) continue;
      goes = true;
      for (int n = d + 1; n < P::end[d]; n++)
        if (on.get(n)) leaving.set(n, true);
    }
    if (goes) {
      if constexpr (P::histories > 0)
        for (int n = P::n_first[u]; n < P::n_first[u + 1]; n++)
          if (leaving.get(n)) remember(n);
      for (int n = P::n_first[u + 1] - 1; n >= P::n_first[u]; n--) {
        if (!leaving.get(n)) continue;
        exited(n);
        if (halted) return;
        on.set(n, false);
      }
    }
    for (int i = 0; i < count; i++) {
      taken(enabled[i]);
      if (halted) return;
    }
    if (!goes) return;
    begin_entry(u);
    for (int i = 0; i < count; i++)
      if (P::targets[enabled[i]].count > 0) add_targets(enabled[i], domain_of(enabled[i]));
    enter(u);
  }

  void remember(int node) {
    if constexpr (P::histories > 0)
      for (int h = node + 1; h < P::end[node]; h = P::end[h]) {
        if (P::history[h] < 0) continue;
        has_memory.set(P::history[h], true);
        for (int k = 0; k < N; k++)
          memory.set(P::history[h] * N + k,
                     is_inside(k, node) && on.get(k) &&
                         (n_is<DEEP>(h) ? n_is<ATOMIC>(k) || n_is<FINAL>(k) : P::parent[k] == node));
      }
  }

  void begin_entry(int u) {
    for (int n = P::n_first[u]; n < P::n_first[u + 1]; n++) {
      entering.set(n, false), defaulted.set(n, false);
      if constexpr (P::histories > 0) content[n] = -1;
    }
  }

  void add_targets(int t, int domain) {
    const List to = P::targets[t];
    for (int i = 0; i < to.count; i++) add_down(items(to)[i]);
    // The order is of no account: what is to be entered is a set.
    if constexpr (P::histories > 0) {
      Flags<N> those = {};
      effective(to, those);
      for (int n = 0; n < N; n++)
        if (those.get(n)) add_up(n, domain);
    } else
      for (int i = 0; i < to.count; i++) add_up(items(to)[i], domain);
  }

  void add_first(int node) {
    for (int k = node + 1; k < P::end[node]; k = P::end[k])
      if (!n_is<SHALLOW>(k) && !n_is<DEEP>(k)) {
        add_down(k);
        add_up(k, node);
        return;
      }
  }

  void add_regions(int node) {
    for (int k = node + 1; k < P::end[node]; k = P::end[k]) {
      if (n_is<SHALLOW>(k) || n_is<DEEP>(k)) continue;
      bool any = false;
      for (int i = k; i < P::end[k]; i++) any |= entering.get(i);
      if (!any) add_down(k);
    }
  }

  void add_down(int node) {
    if (n_is<SHALLOW>(node) || n_is<DEEP>(node)) {
      if constexpr (P::histories > 0) {
        const int h = P::history[node], d = P::deflt[node];
        if (has_memory.get(h)) {
          for (int k = 0; k < N; k++)
            if (memory.get(h * N + k)) add_down(k);
          for (int k = 0; k < N; k++)
            if (memory.get(h * N + k)) add_up(k, P::parent[node]);
        } else if (d >= 0) {
          content[P::parent[node]] = Step(d);
          for (int i = 0; i < P::targets[d].count; i++) add_down(items(P::targets[d])[i]);
          for (int i = 0; i < P::targets[d].count; i++) add_up(items(P::targets[d])[i], P::parent[node]);
        }
      }
      return;
    }
    entering.set(node, true);
    if (n_is<COMPOUND>(node)) {
      defaulted.set(node, true);
      const int d = P::deflt[node];
      if (d >= 0) {
        for (int i = 0; i < P::targets[d].count; i++) add_down(items(P::targets[d])[i]);
        for (int i = 0; i < P::targets[d].count; i++) add_up(items(P::targets[d])[i], node);
      } else
        add_first(node);
    } else if (n_is<PARALLEL>(node))
      add_regions(node);
  }

  void add_up(int node, int domain) {
    for (int n = P::parent[node]; n > domain && P::parent[n] >= 0; n = P::parent[n]) {
      entering.set(n, true);
      if (n_is<PARALLEL>(n)) add_regions(n);
    }
  }

  void enter(int u) {
    for (int n = P::n_first[u]; n < P::n_first[u + 1]; n++) {
      if (!entering.get(n)) continue;
      on.set(n, true);
      entered(n);
      if (halted) return;
      if (defaulted.get(n) && P::deflt[n] >= 0) {
        taken(P::deflt[n]);
        if (halted) return;
      }
      if constexpr (P::histories > 0)
        if (content[n] >= 0) {
          taken(content[n]);
          if (halted) return;
        }
      if (!n_is<FINAL>(n)) continue;
      const int parent = P::parent[n];
      if (P::parent[parent] < 0) {
        running.set(u, false);
        continue;
      }
      node_done(u, parent);
      const int above = P::parent[parent];
      if (above >= 0 && n_is<PARALLEL>(above) && regions_ended(above)) node_done(u, above);
      if (halted) return;
    }
  }

  bool regions_ended(int node) const {
    for (int k = node + 1; k < P::end[node]; k = P::end[k])
      if (!n_is<SHALLOW>(k) && !n_is<DEEP>(k) && !node_ended(k)) return false;
    return true;
  }

  bool node_ended(int node) const {
    if (n_is<FINAL>(node)) return on.get(node);
    if (n_is<PARALLEL>(node)) return regions_ended(node);
    if (!n_is<COMPOUND>(node)) return false;
    for (int k = node + 1; k < P::end[node]; k = P::end[k])
      if (n_is<FINAL>(k) && on.get(k)) return true;
    return false;
  }

  bool any_on(List nodes) const {
    for (int i = 0; i < nodes.count; i++)
      if (on.get(items(nodes)[i])) return true;
    return false;
  }

  // ---- times ----

  int64_t due_of(int u) const {
    int64_t due = never;
    for (int i = 0; i < P::endings; i++)
      if (a_due[i] < due && P::a_in[ending_at[i]] == u) due = a_due[i];
    for (int i = 0; i < P::timers_count; i++)
      if (t_due[i] < due && P::t_in[timer_at[i]] == u) due = t_due[i];
    return due;
  }

  int due_activity(int u) const {
    int best = -1;
    int64_t due = now;
    for (int i = 0; i < P::endings; i++) {
      const int a = ending_at[i];
      if (a_due[i] > due || P::a_in[a] != u || (best >= 0 && a_due[i] == due && a > best)) continue;
      best = a, due = a_due[i];
    }
    return best;
  }

  int due_transition(int u) {
    int t = -1;
    int64_t was = now;
    for (int i = 0; i < P::timers_count; i++) {
      const int x = timer_at[i];
      if (t_due[i] > was || P::t_in[x] != u || (t >= 0 && t_due[i] == was && x > t)) continue;
      t = x, was = t_due[i];
    }
    if (t < 0) return t;
    if (P::t_hold[t] != -1 && is_edge(t)) {
      const int e = P::t_edge[t];
      edge_fired.set(t, (t_is<LEAVE>(t) ? edge_from[e] : edge_to[e]) == P::t_zone[t]);
      edge_from[e] = edge_to[e];
    }
    if (t_is<EVERY>(t)) {
      int64_t by = micros(eval(P::t_time[t]));
      if (by < 1000) by = 1000;
      arm(t, was + by);
    } else
      arm(t, never);
    return t;
  }

  void arm(int t, int64_t due) {
    if constexpr (P::timers_count > 0) {
      const int slot = P::t_timer[t];
      if (slot < 0) return;
      t_due[slot] = due;
      timer_at[slot] = Step(t);
    }
  }

  void ends_at(int a, int64_t due) {
    if constexpr (P::endings > 0) {
      const int slot = P::a_end[a];
      if (slot < 0) return;
      // What another one has begun there meanwhile is left alone.
      if (due == never && ending_at[slot] != a) return;
      a_due[slot] = due;
      ending_at[slot] = Act(a);
    }
  }

  // ---- what sensors say ----

  static bool is_edge(int t) { return t_is<EDGE>(t) || t_is<LEAVE>(t); }
  static int teaches(int sensor) { return P::taughts ? P::teach_slot[sensor] : -1; }

  bool scale_of(int sensor, Scale &s) const {
    if constexpr (P::taughts > 0)
      if (teaches(sensor) >= 0 && taught[teaches(sensor)].own) {
        if (!taught[teaches(sensor)].tells) return false;
        s = taught[teaches(sensor)].scale();
        return true;
      }
    return P::scale(sensor, s);
  }

  int followed(int sensor, int zone) const {
    if (zone < 0) return -1;
    Scale s;
    return scale_of(sensor, s) ? s.index(zone) : zone;
  }

  // How long it has been in its zone begins anew.
  void seen_from_now(int sensor) {
    lost_now.set(sensor, false);
    if constexpr (P::holds_count > 0) zone_since[sensor] = now;
  }

  void was_heard(int sensor) { known.set(sensor, true), silent_now.set(sensor, false), blind.set(sensor, false); }

  bool says_nothing(int sensor, double reading) {
    if (!P::may_hear_nothing[sensor] || nobody(reading)) return false;
    const bool nothing = reading == P::silent_reading[sensor];
    if (!nothing && reading >= P::blind_below[sensor]) return false;
    hears_nothing(sensor, nothing);
    return true;
  }

  void hears_nothing(int sensor, bool nothing) {
    if (finished || fault) return;
    const int zone = P::silence_zone[sensor];
    if (nothing && zone >= 0 && held[sensor] != zone) see_zone(sensor, zone);
    new_moment();
    known.set(sensor, true), silent_now.set(sensor, nothing), blind.set(sensor, true);
    for (int i = 0; i < P::trackers; i++)
      if (P::tracker_sensor[i] == sensor) followers[i].restart();
    for (int i = 0; i < P::marks; i++)
      if (P::mark_sensor[i] == sensor) crossing[i] = 0;
    for (int u = 0; u < U; u++) miss_edges(u, sensor);
    reread(sensor);
  }

  void saw(int sensor, double reading) {
    if constexpr (P::taughts > 0)
      if (teaches(sensor) >= 0 && taught[teaches(sensor)].looking) taught[teaches(sensor)].sum += reading, taught[teaches(sensor)].count++;
  }

  void cross(int sensor, double reading) {
    for (int i = 0; i < P::marks; i++) {
      if (P::mark_sensor[i] != sensor) continue;
      if (nobody(reading)) {
        crossing[i] = 0;
        continue;
      }
      const bool unread = side[i] < 0;
      const double value = P::mark_value[i];
      double band = 0;
      Scale s;
      if (!unread) band = scale_of(sensor, s) ? s.band_near(value) : P::mark_band[i];
      const bool above = reading > value + band, below = unread ? reading <= value : reading < value - band;
      if (above && side[i] != 1) crossing[i] = int16_t((crossing[i] > 0 ? crossing[i] : 0) + 1);
      else if (below && side[i] != 0) crossing[i] = int16_t((crossing[i] < 0 ? crossing[i] : 0) - 1);
      else crossing[i] = 0;
      if ((crossing[i] < 0 ? -crossing[i] : crossing[i]) < P::mark_needed[i]) continue;
      side[i] = int8_t(crossing[i] > 0 ? 1 : 0);
      crossing[i] = 0;
    }
  }

  void reread(int sensor) {
    what_sensor = int16_t(sensor);
    zone_before = held[sensor];
    run(H_READING);
  }

  void press(int sensor, bool is_down) {
    bool tapped = false;
    if constexpr (P::taps > 0) tapped = down.get(sensor) && !is_down && now - down_since[sensor] <= tap_micros;
    down.set(sensor, is_down);
    if constexpr (P::taps > 0)
      if (is_down) down_since[sensor] = now, down_serial[sensor] = serial + 1;
    for (int u = 0; u < U; u++)
      if (active.get(u))
        for (int i = 0; i < watching.size(); i++) {
          const int t = watching.items[i];
          if (P::t_in[t] == u && t_is<PRESS>(t) && P::t_sensor[t] == sensor)
            arm(t, is_down ? in_time(P::t_time[t]) : never);
        }
    what_press = is_down ? PRESSED : RELEASED;
    run(H_PRESS);
    if constexpr (P::taps > 0) {
      if (!tapped) return;
      const bool twice = now - last_tap[sensor] <= twice_micros;
      last_tap[sensor] = twice ? no_tap : now;
      what_sensor = int16_t(sensor), what_press = TAPPED;
      run(H_PRESS);
      if (!twice) return;
      what_sensor = int16_t(sensor), what_press = TAPPED_TWICE;
      run(H_PRESS);
    }
  }

  void read_zone(int sensor, int zone) {
    for (int i = 0; i < P::trackers; i++) {
      if (P::tracker_sensor[i] != sensor) continue;
      if (!followers[i].take_zone(zone, followers[i].held < 0 ? 1 : P::tracker_needed[i])) continue;
      held[i] = int8_t(zone);
      if (i == sensor) seen_from_now(sensor);
    }
    for (int u = 0; u < U; u++)
      if (active.get(u))
        for (int i = 0; i < watching.size(); i++) {
          const int t = watching.items[i];
          if (P::t_in[t] != u || !is_edge(t) || P::t_sensor[t] != sensor) continue;
          Follower &e = edges[P::t_edge[t]];
          const int before = e.held;
          if (!e.take_zone(zone, P::t_needed[t])) continue;
          if (P::t_hold[t] != -1) turn(t, zone);
          else edge_fired.set(t, (t_is<LEAVE>(t) ? before : zone) == P::t_zone[t]);
        }
    what_sensor = int16_t(sensor);
    run(H_SENSED);
    edge_fired.clear();
  }

  bool sense_edges(int u, int sensor, const Scale &scale, double reading) {
    bool any = false;
    for (int i = 0; i < watching.size(); i++) {
      const int t = watching.items[i];
      if (P::t_in[t] != u || !is_edge(t) || P::t_sensor[t] != sensor) continue;
      Follower &e = edges[P::t_edge[t]];
      const int before = e.held;
      if (!take_edge(e, scale, reading, P::t_needed[t])) continue;
      if (P::t_hold[t] != -1) {
        turn(t, scale.zones[e.held]);
        continue;
      }
      any = true;
      edge_fired.set(t, t_is<LEAVE>(t) ? before >= 0 && scale.zones[before] == P::t_zone[t]
                                              : scale.zones[e.held] == P::t_zone[t]);
    }
    return any;
  }

  void see_edges(int u, int sensor, int zone) {
    for (int i = 0; i < watching.size(); i++) {
      const int t = watching.items[i];
      if (P::t_in[t] != u || !is_edge(t) || P::t_sensor[t] != sensor) continue;
      edges[P::t_edge[t]] = followers[sensor];
      if (P::t_hold[t] != -1) turn(t, zone);
    }
  }

  void turn(int t, int zone) {
    const int e = P::t_edge[t];
    if (zone == edge_to[e]) return;
    edge_to[e] = int8_t(zone);
    if (edge_from[e] < 0 && t_is<LEAVE>(t)) edge_from[e] = int8_t(zone);
    arm(t, zone == edge_from[e] ? never : in_time(P::t_hold[t]));
  }

  void miss_edges(int u, int sensor) {
    for (int i = 0; i < watching.size(); i++) {
      const int t = watching.items[i];
      if (P::t_in[t] != u || !is_edge(t) || P::t_sensor[t] != sensor) continue;
      const int e = P::t_edge[t];
      if (P::t_hold[t] == -1) {
        edges[e].restart();
        continue;
      }
      edges[e].hold(followed(sensor, edge_from[e]));
      edge_to[e] = edge_from[e];
      arm(t, never);
    }
  }

  void miss(int u, int sensor) {
    for (int i = 0; i < watching.size(); i++) {
      const int t = watching.items[i];
      if (P::t_in[t] != u || P::t_sensor[t] != sensor) continue;
      if (P::t_count[t] >= 0) counted[P::t_count[t]] = 0;
      if (P::t_since[t] >= 0) since[P::t_since[t]] = -1;
      if (P::t_hold[t] != -1 && level(t)) arm(t, never);
    }
    miss_edges(u, sensor);
  }

  void heard(int u, int text) {
    for (int i = 0; i < P::timers_count; i++) {
      if (t_due[i] == never) continue;
      const int t = timer_at[i];
      if (P::t_in[t] == u && t_is<SILENCE>(t) && (P::t_text[t] < 0 || P::t_text[t] == text))
        t_due[i] = in_time(P::t_time[t]);
    }
  }

  void teach(int sensor, int zone, bool looked) {
    if constexpr (P::taughts > 0) {
      auto &x = taught[teaches(sensor)];
      if (zone < 0) {
        x.sum = 0, x.count = 0, x.looking = true;
        return;
      }
      const double reading = !looked ? (blind.get(sensor) ? unknown : readings[sensor]) : x.count > 0 ? x.sum / x.count : unknown;
      x.looking = false;
      int n = 0;
      for (int i = 0; i < x.shown_count; i++)
        if (x.shown_zone[i] != zone) x.shown_zone[n] = x.shown_zone[i], x.shown_at[n++] = x.shown_at[i];
      x.shown_count = int8_t(n);
      x.own = true;
      x.tells = false;
      if (!nobody(reading)) {
        x.shown_zone[n] = int8_t(zone), x.shown_at[n] = reading;
        x.shown_count = int8_t(n + 1);
        Scale known_scale;
        x.tells = x.make(P::scale(sensor, known_scale) ? &known_scale : nullptr);
      }
      x.cannot_tell = !x.tells;
      const int shown = x.tells ? zone : -1;
      for (int i = 0; i < P::trackers; i++)
        if (P::tracker_sensor[i] == sensor) held[i] = int8_t(shown), followers[i].hold(followed(sensor, shown));
      seen_from_now(sensor);
      for (int i = 0; i < watching.size(); i++) {
        const int t = watching.items[i];
        if (!is_edge(t) || P::t_sensor[t] != sensor) continue;
        const int e = P::t_edge[t];
        edges[e].hold(followers[sensor].held);
        edge_from[e] = edge_to[e] = held[sensor];
        if (P::t_hold[t] != -1) arm(t, never);
      }
    }
  }

  // ---- what sets off ----

  bool zone_moved() const { return what == H_ZONE || (what == H_PRESS && (what_press == PRESSED || what_press == RELEASED)); }
  bool is_due(int t) const { return what == H_TIMER && timer == t; }

  bool enabled_by(int t) {
    const int kind = P::t_kind[t], s = P::t_sensor[t];
    bool fires = false;
    switch (kind) {
    case LEVEL:
    case ALWAYS:
      if constexpr (waits<LEVEL> || waits<ALWAYS>) {
        fires = rises(t, true);
        break;
      }
      break;
    case EDGE:
    case LEAVE:
      if constexpr (waits<EDGE> || waits<LEAVE>) {
        if (P::t_hold[t] != -1) fires = is_due(t) && edge_fired.get(t);
        else if (what == H_SENSED) fires = edge_fired.get(t);
        else fires = zone_moved() && what_sensor == s && (kind == EDGE ? held[s] : zone_before) == P::t_zone[t];
        break;
      }
      break;
    case PRESS:
      if constexpr (waits<PRESS>) {
        if (P::t_press[t] == HELD) fires = is_due(t);
        else
          fires = what == H_PRESS && what_sensor == s && what_press == P::t_press[t] &&
                  (what_press == PRESSED || what_press == RELEASED || was_down_since(P::source[t], s));
        break;
      }
      break;
    case STALL:
      if constexpr (waits<STALL>) {
        fires = what == H_STALLED && what_device == P::t_device[t];
        break;
      }
      break;
    case GIVE_UP:
      if constexpr (waits<GIVE_UP>) {
        fires = what == H_GAVE_UP && what_device == P::t_device[t];
        break;
      }
      break;
    case TOLD:
      if constexpr (waits<TOLD>) {
        fires = what == H_TOLD && what_text == P::t_text[t] && (P::t_from[t] < 0 || P::t_from[t] == what_from);
        break;
      }
      break;
    default:
      fires = is_due(t);
    }
    if (!fires) return false;
    const List into = P::t_into[t];
    if (kind != TOLD || into.count == 0) return guard(t);
    double kept[one(P::most_values)] = {};
    const int n = into.count < message_count ? into.count : message_count;
    for (int i = 0; i < n; i++)
      if (items(into)[i] >= 0) kept[i] = var[items(into)[i]], var[items(into)[i]] = message[i];
    if (guard(t)) return true;
    for (int i = 0; i < n; i++)
      if (items(into)[i] >= 0) var[items(into)[i]] = kept[i];
    return false;
  }

  bool was_down_since(int n, int sensor) const {
    if constexpr (P::taps > 0) return down_serial[sensor] > entered_at[P::n_tap[n]];
    return n < 0 && sensor < 0;
  }

  bool rises_now(int t) { return rises(t, false) && guard(t); }

  bool guard(int t) {
    if (P::t_guard[t] == -1) return true;
    judging_node = int16_t(P::source[t]);
    return holds(eval(P::t_guard[t]));
  }

  bool rises(int t, bool by_event) {
    judging_node = int16_t(P::source[t]);
    bool yes = holds(eval(P::t_cond[t]));
    if (P::t_count[t] >= 0) {
      auto &c = counted[P::t_count[t]];
      if (by_event && (what == H_READING || what == H_ZONE || what == H_SENSED) && what_sensor == P::t_sensor[t])
        c = int16_t(yes ? (c < 32000 ? c + 1 : c) : 0);
      yes = yes && c >= P::t_needed[t];
    }
    if (P::t_hold[t] != -1) {
      auto &began = since[P::t_since[t]];
      const int s = P::t_sensor[t];
      if (!yes || (s >= 0 && lost_now.get(s))) began = -1;
      else if (began < 0) began = P::t_zone[t] >= 0 ? zone_since[s] : now;
      const int64_t due = began < 0 ? never : began + micros(eval(P::t_hold[t]));
      yes = due <= now;
      if (!yes && t_due[P::t_timer[t]] != due) arm(t, due);
    }
    if (!yes) spent.set(t, false);
    return yes && !spent.get(t);
  }

  void entered(int n) {
    changed_in.set(P::n_in[n], true);
    if constexpr (P::taps > 0)
      if (P::n_tap[n] >= 0) entered_at[P::n_tap[n]] = serial;
    const List own = P::own[n];
    for (int t = own.at; t < own.at + own.count; t++) {
      spent.set(t, false), edge_fired.set(t, false);
      if (P::t_count[t] >= 0) counted[P::t_count[t]] = 0;
      if (P::t_since[t] >= 0) since[P::t_since[t]] = -1;
      for (int i = 0; i < P::t_roots[t].count; i++) {
        const int root = items(P::t_roots[t])[i];
        if (stat(root) == ENDED || stat(root) == DROPPED) stat(root, IDLE);
      }
      if (!t_watch(t)) continue;
      watching.add(t);
      if (is_edge(t)) {
        const int eye = P::t_sensor[t], e = P::t_edge[t];
        edges[e].hold(followers[eye].held);
        edge_from[e] = edge_to[e] = held[eye];
      }
    }
    start_all(P::entry[n], n);
    start_all(P::whiles[n], n);
    for (int t = own.at; t < own.at + own.count; t++) {
      if (t_is<AFTER>(t) || t_is<SILENCE>(t)) arm(t, in_time(P::t_time[t]));
      else if (t_is<EVERY>(t)) {
        const int64_t by = micros(eval(P::t_time[t]));
        arm(t, now + (by < 1000 ? 1000 : by));
      } else
        arm(t, never);
    }
  }

  void detach_going(List roots) {
    for (int i = 0; i < roots.count; i++)
      if (stat(items(roots)[i]) == GOING) {
        detach(items(roots)[i]);
        if (halted) return;
      }
  }

  void exited(int n) {
    changed_in.set(P::n_in[n], true);
    const List own = P::own[n];
    for (int t = own.at; t < own.at + own.count; t++) {
      arm(t, never);
      if (t_watch(t)) watching.remove(t);
    }
    for (int i = 0; i < P::whiles[n].count; i++) {
      drop(items(P::whiles[n])[i], true);
      if (halted) return;
    }
    detach_going(P::entry[n]);
    for (int t = own.at; t < own.at + own.count; t++) detach_going(P::t_roots[t]);
    for (int i = 0; i < P::arriving[n].count; i++) detach_going(P::t_roots[items(P::arriving[n])[i]]);
    if (halted) return;
    start_all(P::exits[n], -1);
  }

  void taken(int t) {
    changed_in.set(P::t_in[t], true);
    if (!t_said(t)) return;
    if (level(t)) spent.set(t, true);
    if (t_is<TOLD>(t))
      for (int i = 0; i < P::t_into[t].count && i < message_count; i++)
        if (items(P::t_into[t])[i] < 0) push(-1 - items(P::t_into[t])[i], message[i]);
    if (++transitions_now > most_steps) {
      halt(1);
      return;
    }
    board.took(now, t);
    start_all(P::t_roots[t], P::source[t]);
  }

  void node_done(int u, int node) {
    if (node != P::n_first[u] + 1) return;
    if (u == 0) {
      finished = true;
      return;
    }
    if constexpr (U > 1) {
      active.set(u, false);
      for (int a = P::a_first[u]; a < P::a_first[u + 1]; a++)
        if (stat(a) == GOING) detach(a);
      ends(caller[u], false);
    }
  }

  // ---- activities ----

  void start_all(List roots, int state) {
    for (int i = 0; i < roots.count && !halted; i++) start_one(items(roots)[i], state);
  }

  void start_one(int a, int state) {
    const int floor = work_count;
    later(a, state);
    do_work(floor);
  }

  void later(int a, int state) {
    if (work_count == int(sizeof work / sizeof work[0])) {
      halt(2);
      return;
    }
    work[work_count++] = {Act(a), Node(state)};
  }

  void do_work(int floor) {
    while (work_count > floor && !halted) {
      const Work w = work[--work_count];
      const int p = P::a_parent[w.a];
      if (p >= 0 && stat(p) == DROPPED) continue;
      if (++actions_now > most_actions) {
        halt(2);
        return;
      }
      begin_activity(w.a, w.state);
    }
  }

  void keep_lasting(int a) {
    if constexpr (P::lastings > 0) {
      for (int i = 0; i < lasting_count; i++)
        if (lasting[i] == a) return;
      if (lasting_count == P::lastings) return;
      int at = lasting_count++;
      if constexpr (P::lastings > 1)
        for (; at > 0 && lasting[at - 1] > a; at--) lasting[at] = lasting[at - 1];
      lasting[at] = Act(a);
    }
  }

  void forget_lasting(int i) {
    lasting_count--;
    if constexpr (P::lastings > 1)
      for (; i < lasting_count; i++) lasting[i] = lasting[i + 1];
  }

  int branch(int a) { return holds(eval(P::a_value[a])) ? 0 : P::a_children[a].count > 1 ? 1 : -1; }

  void begin_activity(int a, int state) {
    const int kind = P::a_kind[a], device = P::a_device[a], slot = P::a_slot[a], other = P::a_other[a];
    const List children = P::a_children[a];
    for (int i = 0; i < children.count; i++) {
      make_orphan(items(children)[i]);
      if (halted) return;
    }
    status[a] = GOING;
    started_by[a] = Node(state);
    ends_at(a, never);
    switch (kind) {
    case THEN:
      if constexpr (does<THEN>) {
        next[P::a_slot[a]] = 0;
        later(items(children)[0], state);
        return;
      }
      break;
    case TOGETHER:
      if constexpr (does<TOGETHER>) {
        for (int i = 0; i < children.count; i++) stat(items(children)[i], IDLE);
        for (int i = children.count - 1; i >= 0; i--) later(items(children)[i], state);
        return;
      }
      break;
    case IF:
      if constexpr (does<IF>) {
        const int b = branch(a);
        next[P::a_slot[a]] = b;
        if (a_judged(a)) keep_lasting(a);
        if (b >= 0) later(items(children)[b], state);
        else if (!a_judged(a)) ends(a, false);
        return;
      }
      break;
    case REPEAT:
      if constexpr (does<REPEAT>) {
        if (P::a_second[a] != -1) {
          if (holds(eval(P::a_second[a]))) ends(a, false);
          else later(items(children)[0], state);
          return;
        } else {
          const double n = eval(P::a_value[a]);
          int32_t rounds = 0;
          if (n > 0) rounds = n > 1000000 ? 1000000 : int32_t(even(n));
          next[P::a_slot[a]] = rounds;
          if (rounds == 0) ends(a, false);
          else later(items(children)[0], state);
          return;
        }
      }
      break;
    case ROUTINE:
      if constexpr (does<ROUTINE>) {
        const int u = P::a_unit[a];
        stop_unit(u, true);
        if (halted) return;
        for (int i = 0; i < P::a_args[a].count; i++) var[items(P::parameters[u])[i]] = eval(items(P::a_args[a])[i]);
        clear(u);
        caller[u] = Act(a);
        begin(u);
        return;
      }
      break;
    case SET:
      if constexpr (does<SET>) {
        if (slot < 0) queue_counts[-1 - slot] = 0;
        else var[slot] = eval(P::a_value[a]);
        break;
      }
      break;
    case PUSH:
      if constexpr (does<PUSH>) {
        push(slot, eval(P::a_value[a]));
        break;
      }
      break;
    case TAKE:
      if constexpr (does<TAKE>) {
        if (queue_counts[slot] > 0) {
          var[other] = queues[slot][0];
          queue_counts[slot]--;
          for (int i = 0; i < queue_counts[slot]; i++) queues[slot][i] = queues[slot][i + 1];
        }
        break;
      }
      break;
    case TELL:
      if constexpr (does<TELL>) {
        double values[one(P::most_told)] = {};
        const List args = P::a_args[a];
        for (int i = 0; i < args.count; i++) values[i] = eval(items(args)[i]);
        board.tell(now, slot, other, values, args.count);
        note(a, -1);
        break;
      }
      break;
    case TEACH:
      if constexpr (does<TEACH>) {
        teach(slot, other, a_finite(a));
        if (other >= 0) command(a_finite(a) ? P::a_parent[a] : a, -1, 0, 0);
        break;
      }
      break;
    case ZERO:
      if constexpr (does<ZERO>) {
        if constexpr (P::measures) travel[device] = angle[device] = 0;
        note(a, device);
        break;
      }
      break;
    case SHOW:
      if constexpr (does<SHOW>) {
        command(a, -1, P::a_value[a] == -1 ? other : eval(P::a_value[a]), 0);
        break;
      }
      break;
    case STOP_ALL:
      if constexpr (does<STOP_ALL>) {
        for (int i = 0; i < A; i++)
          if (stat(i) == GOING && !around(i, a)) drop(i, false);
        for (int d = 0; d < D; d++) owner[d] = -1, stop_pending.set(d, false), given_up.set(d, false), done.set(d, true);
        note(a, -1);
        break;
      }
      break;
    case LAMP_ON:
    case LAMP_OFF:
    case STOP:
      if constexpr (does<LAMP_ON> || does<LAMP_OFF> || does<STOP>) {
        own_device(device, kind == LAMP_ON ? a : -1);
        if (halted) return;
        done.set(device, kind == STOP && !commands_later(a, device));
        note(a, device);
        break;
      }
      break;
    case MOVE:
      if constexpr (does<MOVE>) {
        own_device(device, a);
        if (halted) return;
        order(a);
        if (!a_finite(a)) keep_lasting(a);
        return;
      }
      break;
    }
    if (halted) return;
    ends(a, false);
  }

  void make_orphan(int a) {
    if (stat(a) != GOING) return;
    if (a_is<ROUTINE>(a)) {
      stop_unit(P::a_unit[a], false);
      if (halted) return;
      drop(a, false);
      return;
    }
    const List children = P::a_children[a];
    if (children.count == 0) {
      flag(a, ORPHAN, true);
      return;
    }
    stat(a, IDLE);
    for (int i = 0; i < children.count; i++) make_orphan(items(children)[i]);
  }

  void push(int q, double value) {
    if (queue_counts[q] >= most_queued) {
      if (!fault) fault = 3;
    } else
      queues[q][queue_counts[q]++] = value;
  }

  void command(int a, int device, double value, double second, int64_t lasts = 0) {
    board.command(now, P::a_in[a], a - P::a_first[P::a_in[a]], device, value, second, lasts);
  }

  void note(int a, int device) { command(a, device, 0, 0); }

  // A device is stopped by no sentence: -1 as nothing goes on any more, -2 as its time is over, -3 at the end of the program.
  void rest(int u, int why, int device) { board.command(now, u, why, device, 0, 0, 0); }

  void order(int a) {
    const double value = eval(P::a_value[a]), second = eval(P::a_second[a]);
    int64_t lasts = 0;
    if (a_finite(a) && P::a_lasts[a] != -1) {
      lasts = micros(eval(P::a_lasts[a]));
      ends_at(a, now + lasts);
    }
    if constexpr (P::lasts > 0)
      if (P::a_device[a] >= 0) last_value[P::a_device[a]] = value, last_second[P::a_device[a]] = second;
    command(a, P::a_device[a], value, second, lasts);
  }

  void own_device(int device, int a) {
    if (device < 0) return;
    stop_pending.set(device, false), done.set(device, false), given_up.set(device, false);
    const int before = owner[device];
    owner[device] = Act(a);
    if (before < 0 || before == a) return;
    if (stat(before) == GOING && a_finite(before)) drop(before, false);
  }

  bool is_finite_move(int a) const { return a_is<MOVE>(a) && a_finite(a) && stat(a) == GOING; }

  bool around(int a, int inner) const {
    for (int x = inner; x >= 0;) {
      if (x == a) return true;
      const int u = P::a_in[x];
      x = P::a_parent[x];
      if (x < 0) x = u > 0 ? caller[u] : -1;
    }
    return false;
  }

  bool commands_later(int a, int device) {
    if (flag(a, ORPHAN)) return false;
    for (int up = P::a_parent[a]; up >= 0; up = P::a_parent[up]) {
      if (stat(up) != GOING || flag(up, DETACHED)) return false;
      const List children = P::a_children[up];
      if (a_is<REPEAT>(up) &&
          (P::a_second[up] != -1 ? !holds(eval(P::a_second[up])) : next[P::a_slot[up]] > 1))
        return true;
      if (a_is<THEN>(up))
        for (int i = next[P::a_slot[up]] + 1; i < children.count; i++)
          if (says_to(items(children)[i], device)) return true;
    }
    return false;
  }

  bool says_to(int a, int device) const {
    if (P::a_device[a] == device && (a_is<MOVE>(a) || a_is<STOP>(a))) return true;
    for (int i = 0; i < P::a_children[a].count; i++)
      if (says_to(items(P::a_children[a])[i], device)) return true;
    return false;
  }

  void ends(int a, bool gave_up) {
    while (a >= 0 && stat(a) == GOING) {
      stat(a, ENDED);
      ends_at(a, never);
      const int device = P::a_device[a];
      if (a_is<MOVE>(a) && a_finite(a) && device >= 0) {
        done.set(device, !gave_up && !commands_later(a, device));
        given_up.set(device, gave_up);
        if (owner[device] == a) owner[device] = -1;
        if (gave_up || a_stops(a)) rest(P::a_in[a], -2, device);
      }
      gave_up = false;
      const int parent = flag(a, ORPHAN) ? -1 : P::a_parent[a];
      flag(a, ORPHAN, false);
      if (parent < 0 || stat(parent) != GOING) return;
      const List children = P::a_children[parent];
      const int slot = P::a_slot[parent];
      switch (P::a_kind[parent]) {
      case THEN:
        if constexpr (does<THEN>) {
          if (++next[slot] >= children.count) break;
          if (flag(parent, DETACHED)) drop(parent, false);
          else later(items(children)[next[slot]], started_by[parent]);
          return;
        }
        break;
      case TOGETHER:
        if constexpr (does<TOGETHER>) {
          for (int i = 0; i < children.count; i++)
            if (stat(items(children)[i]) == GOING || stat(items(children)[i]) == IDLE) return;
          break;
        }
        break;
      case IF:
        if constexpr (does<IF>) {
          if (a_judged(parent)) return;
          break;
        }
        break;
      case REPEAT:
        if constexpr (does<REPEAT>) {
          if (P::a_second[parent] != -1 ? holds(eval(P::a_second[parent])) : --next[slot] <= 0) break;
          if (flag(parent, DETACHED)) drop(parent, false);
          else later(items(children)[0], started_by[parent]);
          return;
        }
        break;
      default:
        return;
      }
      a = parent;
    }
  }

  void drop(int a, bool stop) {
    const int was = stat(a), kind = P::a_kind[a], device = P::a_device[a];
    stat(a, DROPPED);
    ends_at(a, never);
    for (int i = 0; i < P::a_children[a].count; i++) {
      const int child = items(P::a_children[a])[i];
      if ((stat(child) == GOING && !flag(child, ORPHAN)) || stop) drop(child, stop);
      if (halted) return;
    }
    if (a_is<ROUTINE>(a) && was == GOING) {
      stop_unit(P::a_unit[a], true);
      if (halted) return;
    }
    if (stop && device >= 0 && (kind == MOVE || kind == LAMP_ON) && owner[device] == a) stop_pending.set(device, true);
    if (stop) return;
    for (int up = flag(a, ORPHAN) ? -1 : P::a_parent[a]; up >= 0 && stat(up) == GOING; up = P::a_parent[up]) stat(up, DROPPED);
  }

  void detach(int a) {
    flag(a, DETACHED, true);
    if (a_is<ROUTINE>(a) && stat(a) == GOING) {
      stop_unit(P::a_unit[a], false);
      if (halted) return;
      drop(a, false);
    }
    for (int i = 0; i < P::a_children[a].count; i++)
      if (stat(items(P::a_children[a])[i]) == GOING) detach(items(P::a_children[a])[i]);
  }

  bool all_ended(List roots, bool &any) const {
    for (int i = 0; i < roots.count; i++) {
      const int root = items(roots)[i];
      if (stat(root) == GOING || stat(root) == DROPPED) return false;
      any |= stat(root) == ENDED && takes(root);
    }
    return true;
  }

  bool takes(int a) const {
    const int kind = P::a_kind[a];
    if (kind == MOVE || kind == ROUTINE) return true;
    if (a_is<IF>(a)) return next[P::a_slot[a]] >= 0 && takes(items(P::a_children[a])[next[P::a_slot[a]]]);
    for (int i = 0; i < P::a_children[a].count; i++)
      if (takes(items(P::a_children[a])[i])) return true;
    return false;
  }

  bool resume(int u, int device) {
    for (int n = P::n_first[u + 1] - 1; n >= P::n_first[u]; n--) {
      if (!on.get(n)) continue;
      for (int i = 0; i < P::whiles[n].count; i++) {
        const int a = lasting_of(items(P::whiles[n])[i], device);
        if (a < 0) continue;
        owner[device] = Act(a);
        order(a);
        return true;
      }
    }
    return false;
  }

  int lasting_of(int a, int device) const {
    if (P::a_device[a] == device &&
        ((a_is<MOVE>(a) && !a_finite(a) && stat(a) == GOING) || a_is<LAMP_ON>(a)))
      return a;
    for (int i = 0; i < P::a_children[a].count; i++) {
      const int found = lasting_of(items(P::a_children[a])[i], device);
      if (found >= 0) return found;
    }
    return -1;
  }

  void judge(int a) {
    if (started_by[a] >= 0) judging_node = started_by[a];
    const int8_t before = judging;
    judging = int8_t(P::a_in[a]);
    const int b = branch(a);
    judging = before;
    auto &now_at = next[P::a_slot[a]];
    if (b == now_at) return;
    if (now_at >= 0) {
      const int was = items(P::a_children[a])[now_at];
      if (stat(was) == GOING || a_is<LAMP_ON>(was)) drop(was, true);
      if (halted) return;
    }
    now_at = b;
    if (b >= 0) start_one(items(P::a_children[a])[b], started_by[a]);
  }

  void refresh(int u) {
    // Those of this part stand side by side: activities are numbered part by part.
    for (int i = 0; i < lasting_count; i++) {
      const int a = lasting[i];
      if (P::a_in[a] != u) continue;
      if (stat(a) != GOING) {
        forget_lasting(i);
        i--;
        continue;
      }
      if (a_is<IF>(a)) {
        judge(a);
        if (halted) return;
        continue;
      }
      if constexpr (P::lasts > 0) {
        const int device = P::a_device[a];
        if (device < 0 || owner[device] != a || started_by[a] < 0) continue;
        const double value = eval(P::a_value[a]), second = eval(P::a_second[a]);
        if (value == last_value[device] && second == last_second[device]) continue;
        order(a);
      }
    }
  }

  // ---- one thing that happens ----

  void run(uint8_t happening, int unit = -1, int a = -1) {
    if (finished || fault) return;
    what = happening;
    serial++;
    halted = false;
    if (happening == H_START) {
      begin(0);
      if (!halted) do_work(0);
    } else {
      if (unit >= 0) {
        ends(a, happening == H_GAVE_UP);
        if (!halted) do_work(0);
      }
      for (int u = 0; u < U && !halted; u++)
        if (active.get(u)) fire(u);
    }
    what = NOTHING;
    for (bool changed = !halted; changed && !halted;) {
      changed = false;
      for (int u = 0; u < U && !halted; u++)
        if (active.get(u)) changed |= look_again(u);
    }
    if (halted) work_count = 0;
    what = NOTHING;
    halted = false;
    settle();
    if (halted) work_count = 0;
    halted = false;
    if (finished) stop_at_end();
  }

  void settle() {
    for (int u = 0; u < U; u++)
      if (active.get(u)) {
        refresh(u);
        if (halted) return;
      }
    for (int d = 0; d < D; d++) {
      if (!stop_pending.get(d)) continue;
      stop_pending.set(d, false);
      bool resumed = false;
      for (int u = 0; u < U && !resumed; u++) resumed = active.get(u) && resume(u, d);
      if (resumed) continue;
      owner[d] = -1;
      rest(0, -1, d);
    }
  }

  void stop_at_end() {
    for (int d = 0; d < D; d++) {
      const int a = owner[d];
      if (a < 0 || !P::moves[d] || stat(a) != GOING) continue;
      owner[d] = -1;
      rest(0, -3, d);
    }
  }
};

}  // namespace chiton
