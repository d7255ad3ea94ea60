// Looking for a run: the engine itself tries what a game may write, shortest runs first.
#pragma once

#include <algorithm>
#include <array>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <tuple>
#include <unordered_map>
#include <vector>

#include "mobrin/core/instance.hpp"
#include "mobrin/io/load.hpp"
#include "model.hpp"

namespace mobrin::proof {

// What is written at an instant.
struct Press {
  std::vector<std::pair<std::uint16_t, double>> values{};  // inputs
  std::vector<std::uint16_t> pulses{};
  [[nodiscard]] bool empty() const { return values.empty() && pulses.empty(); }
  bool operator==(const Press&) const = default;
};

// What is worth to be tried where these leaves are active, by region; kNoIndex: whatever is. Empty: as a run begins.
struct Hint {
  Indices leaves{};
  Press press{};
  bool operator==(const Hint&) const = default;
};

// A moment of a run, for who looks for something. Views are valid during the call.
struct Seen {
  const Instance& instance;
  const std::vector<Cue>& told;  // in it, all records
  const Press& press;
  View before, after;    // with what was written, before it settles and after
  const Config& config;  // after
  std::uint32_t parent;  // UINT32_MAX for the first
  std::int64_t memory;   // of who looks: that of the moment before; what is set here goes on
  bool settles;          // an instant: it begins, something was written or came due
};
enum class Verdict : std::uint8_t { goes_on, ends, found };

struct Guide;  // guide.hpp

struct SearchLimits {
  std::size_t nodes = 12'000, moves = 120'000;
  bool memory_is_time = false;       // the memory is an instant and one, or 0 for none
  std::optional<Ticks> patience{};   // also waits this long
  std::vector<const Term*> reads{};  // what who looks reads, at any time
  std::vector<bool> writes{};        // by input: whether it is written; empty: all are
  std::vector<Hint> hints{};         // are tried besides
  const Guide* guide = nullptr;      // what it says is all that is written, and where it comes nearer is looked first
};

// What an instance holds, as terms read it.
struct Reading {
  Config config;
  std::vector<Span> inputs;
  Flags active;
  [[nodiscard]] View view(const Model& model, const Truths& pulses, const Truths* cues) const {
    return {&inputs, &config.variables, &active, &pulses, cues, &model.traits()};
  }
};
void read(const Model& model, const Instance& instance, Reading& out);

// Of inputs that are no pulses: what one starts with, as the file says it; a number in as many bits as are kept; what
// is held once it is written; a value that reads well and, once written, is held within a span, none where no write
// leads there (a start need not lie on the grain); and a value as it is written.
[[nodiscard]] double start_of(const InputDef& input);
[[nodiscard]] double in_its_bits(const InputDef& input, double value);
[[nodiscard]] double stored(const InputDef& input, double value);
[[nodiscard]] std::optional<double> to_write(const InputDef& input, const Span& span);
[[nodiscard]] FieldValue field_of(const InputDef& input, double value);
// How many things it writes that are unlike the start.
[[nodiscard]] std::size_t size_of(const Model& model, const Press& press);

class Search {
 public:
  using Watch = std::function<Verdict(Seen&)>;

  Search(const Model& model, SearchLimits limits = {});

  // The number of the moment found; empty where none was within the limits.
  [[nodiscard]] std::optional<std::uint32_t> run(const Watch& watch);
  // The same from a moment that was found on, or from the begin: of all that is tried only the way to what is found is
  // kept, and the moments before.
  [[nodiscard]] std::optional<std::uint32_t> go_on(std::optional<std::uint32_t> from, const Watch& watch);
  // The same as a moment that was found, at the latest then, with as little written on the way as is needed. All others
  // are gone.
  [[nodiscard]] std::uint32_t shorten(std::uint32_t found, const Watch& watch);
  // Lets go of all moments.
  void forget() { moments_.clear(); }
  // From the next run on those moments come first in which states are active that were not before, and a thing is
  // written at a time, instead of the shortest runs: it comes further where there is much to write. `goals`: by state,
  // where it shall come, if that is known; what is nearer by rules is looked at before. `numbers`: what variables shall
  // be near to; that one is nearer counts as new.
  using Numbers = std::vector<std::pair<std::uint16_t, double>>;
  void prefer_new_states(const std::vector<bool>& goals = {}, Numbers numbers = {});
  // From the next run on the shortest runs come first, what is written and changes nothing at once is held until
  // something comes, as what settles then may read it, and two pulses are written at a time. It takes a multiple of the
  // moves.
  void look_closer();
  // From the next run on what the guide says is written, and the same is held; see look_closer().
  void follow_guide();
  // From the next run on nothing is led any more, and only these inputs are written.
  void leave_guide(std::vector<bool> writes);
  void set_limits(std::size_t nodes, std::size_t moves) { limits_.nodes = nodes, limits_.moves = moves; }
  // Whether what is written there breaks what the machine assumes: then no run comes to it.
  [[nodiscard]] bool breaks_assumed(const Seen& seen) const;
  // Whether a state was active, with none inside it, at a moment of the last run.
  [[nodiscard]] bool has_met(std::uint16_t leaf) const;
  // How many moments the last run kept.
  [[nodiscard]] std::size_t kept() const { return kept_; }
  // How much was tried in the last run.
  [[nodiscard]] std::size_t moves() const { return moves_; }
  // Whether nothing was left to try within the limits; whether all that there is was among that, says
  // tells_all_values().
  [[nodiscard]] bool exhausted() const { return exhausted_; }
  // Whether the last run was looked closer at and each value of an input that a guard tells from others was among what
  // was tried, with each of the others.
  [[nodiscard]] bool tells_all_values() const {
    return closer_ && std::find(held_against_.begin(), held_against_.end(), true) == held_against_.end() &&
           std::all_of(letters_.begin(), letters_.end(), [](const auto& each) { return each.second.whole; });
  }
  // What leads to a moment, from a fresh instance on.
  [[nodiscard]] Tape tape_to(std::uint32_t moment) const;
  [[nodiscard]] Tape tape_to(const Seen& seen) const;
  [[nodiscard]] Ticks at(std::uint32_t moment) const { return moments_[moment].at; }

 private:
  // Tries from these moments on, or from the begin.
  std::optional<std::uint32_t> search(std::optional<std::uint32_t> from, const Watch& watch);
  struct Node {
    std::uint32_t parent = UINT32_MAX;
    std::uint32_t run = 0;  // those among which it is only waited have the same
    Ticks at{};
    Press press{};
    std::vector<std::byte> block{};
    bool written = false;  // what was written settled at this very tick
    bool held = false;     // nothing came of it so far, but may: it is waited for that
    bool meets = false;    // what was written last was written for two things to come together
    std::int64_t memory = 0;
    Indices leaves{};
    std::vector<Ticks> entered{};  // beside timed_: when the state was entered last
    std::size_t key = 0;           // of its key_of()
    std::uint32_t stays = 0;       // so many before it, each waited for from the last, have the same
    std::uint32_t alike = 0;       // so many with the same leaves were met before
    std::uint32_t distance = 0;    // from the goals, in rules
    Ticks due{INT64_MAX};          // what comes next by itself, once it was waited for
  };
  // What may be written that can matter where these states are active: each combination of values, as far as they are
  // few, with each pulse.
  struct Letters {
    std::vector<Press> presses{};
    // Which of them write one thing at most that rules of active states read, which another one thing, and the rest.
    std::array<std::vector<std::uint32_t>, 3> parts{};
    bool whole = true;  // every combination is among them
    // By input: what time or another region brings reads it, though nothing may come of writing it.
    std::vector<bool> read_later{};
  };
  const Letters& letters_at(const Indices& leaves);
  void add_hints(const Indices& leaves, Letters& out) const;
  void add_press(const Press& press, Letters& out, std::size_t part = 0) const;
  void add_for_rules(const Indices& leaves, Letters& out) const;
  [[nodiscard]] std::optional<Press> press_for(const Rule& rule) const;
  [[nodiscard]] Letters make_letters(const std::vector<bool>& inputs, const std::vector<bool>& own) const;
  [[nodiscard]] std::vector<bool> read_anywhere() const;
  // Inputs that rules of active states read, and speeds; `further`, and those of what they lead to.
  [[nodiscard]] std::vector<bool> read_from(const Indices& leaves, bool further) const;
  [[nodiscard]] std::vector<bool> read_later(const Indices& leaves) const;
  // What tells a moment from another: not its instant, and times in coarse steps, or there would be no end of
  // them.
  [[nodiscard]] std::string key_of(const Instance& instance, const Config& config, const Node& node) const;
  [[nodiscard]] bool speeds_read(const Indices& leaves, std::uint16_t input) const;
  // Lets time pass and looks at what comes of it: the node tells where from, and then what is there.
  Verdict look(Node& node, Ticks after, const Watch& watch);
  bool is_new(const Node& node) { return seen_.try_emplace(key_, Met{node.run, node.at}).second; }
  [[nodiscard]] bool was_elsewhere() const;
  [[nodiscard]] bool plays_bring_something(const Node& node) const;
  // Lets time pass until something comes due that is not left out.
  Verdict wait(Node& node, const Watch& watch);
  [[nodiscard]] bool came_round(const Node& node) const;
  // When what it is waited for there is due.
  [[nodiscard]] std::vector<Ticks> awaited(const Node& node) const;
  Verdict wait_on(Node& node, const Watch& watch);
  // The instance is at the node; what comes next there is known.
  [[nodiscard]] std::vector<Ticks> coincidences(const Node& node) const;
  // Tries a press and the time after it; true: found.
  bool move(std::optional<std::uint32_t> from, const Press& press, Ticks delay, Ticks after, const Watch& watch,
            bool meets = false);
  [[nodiscard]] std::vector<bool> pulses_alive() const;
  [[nodiscard]] std::uint32_t far_from_numbers(const Config& config) const;
  // `part`: of the letters; kAllParts for all, in their order.
  static constexpr std::size_t kAllParts = 3;
  bool expand(std::uint32_t moment, std::size_t part, const Watch& watch);
  void write(Instance& instance, const Press& press) const;
  using Written = std::vector<std::pair<Ticks, Press>>;
  [[nodiscard]] Written written_to(std::uint32_t moment) const;
  // What is found where just that is written, within this time.
  [[nodiscard]] std::optional<std::uint32_t> follow(const Written& presses, Ticks until, const Watch& watch);
  [[nodiscard]] Tape tape_of(const Written& presses, Ticks until) const;

  const Model& model_;
  SearchLimits limits_;
  Instance instance_;
  std::vector<std::vector<Span>> cells_;  // by input: of what is written
  std::map<Indices, Letters> letters_;
  std::vector<Term> assumed_;
  std::vector<bool> always_;                            // inputs that who looks reads
  std::vector<bool> asked_cues_;                        // and cues
  std::vector<bool> held_against_;                      // inputs that guards hold against other inputs or variables
  std::vector<std::pair<std::uint16_t, Ticks>> timed_;  // states with `after:`, and the longest of them
  bool in_a_part_ = false;                              // something is left out
  // Rounds of a loop on which nothing hangs are no moments of their own; of what is left out none is.
  Listening listened_ = kGameRecords | listen_to(Told::enter) | listen_to(Told::leave);
  std::vector<Node> moments_;
  struct Met {
    std::uint32_t run;
    Ticks at;
  };
  std::unordered_map<std::string, Met> seen_;        // by key
  std::unordered_map<std::uint32_t, Ticks> waited_;  // by run: until when it was waited on
  std::uint32_t runs_ = 0;
  // How many moments have these leaves, are so far from the numbers, and have these pulses waiting.
  std::map<std::tuple<Indices, std::uint32_t, std::vector<bool>>, std::uint32_t> met_;
  Numbers numbers_;
  std::vector<bool> counts_;              // by variable: see Model::counts_up
  std::vector<std::uint32_t> distances_;  // by state
  std::size_t moves_ = 0, kept_ = 0;
  bool exhausted_ = false, cut_short_ = false, new_states_first_ = false, closer_ = false, follows_ = false;
  // Of one move; kept, as there are so many.
  Reading before_, now_;
  std::vector<Cue> told_, rounds_;  // what is told, loops that come round apart
  Truths pulses_, cues_;
  Truths silent_;  // no cue
  std::vector<std::byte> unwritten_;
  std::string key_;
  Ticks came_;  // of the last wait: when something came due
};

// The numbers that a term compares variables with.
void add_numbers(const Term& term, Search::Numbers& out);

// Whether engine and reference enter and leave the same states at the same instants.
[[nodiscard]] bool replays(const Model& model, const Tape& tape);

}  // namespace mobrin::proof
