// All that a machine can come to, without the ways there: each moment of a settling is looked at once, whatever it
// comes of. It takes machines for which Space is too large, and knows less: what inputs hold is forgotten where no rule
// that may follow reads them, and where a pulse is taken, no rule of what is active then.
#pragma once

#include <optional>
#include <unordered_map>
#include <unordered_set>

#include "mobrin/core/definition.hpp"
#include "settling.hpp"

namespace mobrin::proof {

// What a claim asks of every instant: its first expression stands in one of the lists, its second behind it.
struct Question {
  Asked asked{};
  ClaimKind kind = ClaimKind::never;
  bool timed = false;  // what is waited for may take a while
};

// That an input lies in some of its cells: the first and the last of them.
struct Part {
  std::uint16_t input = 0, first = 0, last = 0;
};

// The ways that were looked at, from instant to instant.
struct Ways {
  static constexpr std::uint32_t kNone = UINT32_MAX;
  // A moment: what is known of inputs; where it may rest; an instant that rests there may be against what is claimed.
  struct Place {
    std::vector<Part> known;
    std::uint32_t rest = kNone;
    bool broken = false;
  };
  // Where a settling may end, and whether something is waited for; the moments with which an instant begins there. The
  // first is before the run.
  struct Rest {
    Indices leaves;
    bool waits = false;
    std::vector<std::uint32_t> begins{};
  };
  std::vector<Place> places{};
  std::vector<Rest> rests{};
  std::vector<std::vector<Next>> next{};  // by place
  std::vector<Taken> taken{};
};

class Reach {
 public:
  // What is looked at stands in the model's notes, and what is entered. `steps`: how much work, beside some for each
  // state. Where variables are too much, less is tried to be known of them. Of a `can` nothing is answered: it asks for
  // rests(), with variables known as the model knows them.
  // `ways`: it is only looked for those, once, with variables known as the model knows them; nothing is answered.
  Reach(Model& model, std::size_t steps, const Question* question = nullptr, Ways* ways = nullptr);

  // Whether all was looked at. Where not, nothing follows from what is missing.
  [[nodiscard]] bool whole() const { return whole_; }
  // Nothing is known of what guards read but its range: much that never is may have been taken for what may be.
  [[nodiscard]] bool roughly() const { return care_ == Care::none; }
  // A settling may not come to rest.
  [[nodiscard]] bool runaway() const { return runaway_; }
  // Without a question: a press may lead back to where it came from, at the same instant.
  [[nodiscard]] bool undoes_a_press() const { return undoes_; }

  // Of a question: no instant is against it; what is waited for longer is in `waiting`.
  [[nodiscard]] bool holds() const { return whole_ && !broken_; }
  // An instant keeps what is assumed; the first expression may be true at one.
  [[nodiscard]] bool assumptions_kept() const { return kept_; }
  [[nodiscard]] bool first_met() const { return first_met_; }
  [[nodiscard]] const std::vector<Waiting>& waiting() const { return waiting_; }
  // Of a `can`: the configurations at rest, how much was known of variables then, and whether where rules lead back.
  [[nodiscard]] const std::vector<Config>& rests() const { return rest_configs_; }
  [[nodiscard]] const std::vector<Knowledge>& known() const { return known_then_; }
  [[nodiscard]] bool remembered() const { return remembered_then_; }

 private:
  static constexpr std::uint32_t kFirst = 0xffff'ffff;  // of `waits`: nothing was before
  // Of which inputs more is known than their range, beside those that are asked for: of all that guards read, of those
  // that two guards read which may be looked at in one round, of none.
  enum class Care : std::uint8_t { all, read_twice, none };
  enum class Stage : std::uint8_t {
    begins,  // the game has written, or time brings something: nothing has settled
    settles,
    rests,    // it is final, and nothing comes of what was written
    between,  // it is no instant, but the time before one
  };
  // A moment with what is known of the inputs.
  struct Place {
    Moment moment{};
    std::vector<Part> known{};  // by input
    std::uint32_t number = 0;
    Stage stage = Stage::settles;
    // Of the question. Which pulses that it speaks of were written, a bit each; what its first expression was when it
    // began; which configuration it waits in, and one, 0 where it does not.
    std::uint32_t written = 0;
    Values stood{};  // its variables before a round of a loop that came changed them; empty: nothing did
    Truth first = Truth::no;
    std::uint32_t waits = 0;
    std::uint32_t rest = 0;  // of what is between two instants: where
  };
  [[nodiscard]] Stage first_stage() const { return question_ == nullptr ? Stage::settles : Stage::begins; }
  // How much of each variable.
  struct Knowing {
    std::vector<Knowledge> known{};
    bool exact = false;
    std::size_t eighths = 8;  // of the work
    bool remembers = false;   // where rules lead back
  };
  [[nodiscard]] std::vector<Knowing> ways_to_know() const;
  [[nodiscard]] std::vector<Knowing> ways_to_know_variables(bool claims) const;
  [[nodiscard]] std::optional<Knowing> stopping(Knowing known) const;
  bool explore_until_sure(std::size_t enough);
  [[nodiscard]] Care most_care() const;
  void care_for(const Config& config);
  void find_readers();
  void leave_all();
  bool explore(std::size_t enough);
  std::uint32_t rest_at(const Config& config, std::uint32_t waits);  // its number
  void begins_at(std::uint32_t rest, std::uint32_t place);
  std::uint32_t add(Place place);
  [[nodiscard]] std::optional<Place> next_open();
  void know(const std::vector<Part>& known);
  void look(const Place& place);
  void begin(const Place& place);
  void follow(const Place& place, std::vector<Step>& steps);
  void split(const Place& place, const Term& guard, const View& view);
  void split_on(const Place& place, const Model::Looked& looked);
  // What becomes of a term; empty where the place was split to know more.
  [[nodiscard]] std::optional<Truth> truth_of(const Term& term, const Place& place, const Config& config,
                                              const Truths* cues);
  // An instant has come to rest. False: the place was split to know more.
  bool ask(const Place& place);
  [[nodiscard]] std::uint32_t waits_after(const Place& place, Truth first, Truth second);
  [[nodiscard]] Truths pulses_written(const Place& place) const;
  [[nodiscard]] std::string key_of(const Place& place) const;

  Model& model_;
  const Question* question_;
  Heard heard_;
  std::size_t limit_ = 0, steps_ = 0;
  // By state and input: whether a rule reads it that may be taken from there on before a pulse is.
  std::vector<std::vector<bool>> readers_, own_;  // own: one of the state's own
  // By state: the inputs that its own rules read, each as often as it is read.
  std::vector<std::vector<std::uint16_t>> reads_;
  Care care_ = Care::all;
  std::vector<bool> asked_inputs_;           // which are never forgotten
  std::vector<std::uint16_t> asked_pulses_;  // told apart: written or not
  std::vector<std::vector<Place>> open_;     // by how many pulses are sure not to be alive: the fewest first
  Known known_;
  std::vector<std::vector<Next>> next_;  // by the number of a place
  Ways* ways_ = nullptr;
  std::unordered_map<std::string, std::uint32_t> rests_;
  std::vector<Config> rest_configs_;
  std::vector<Knowledge> known_then_;
  std::vector<Taken> taken_;
  std::vector<Stop> stops_;                        // by the number of a place, without a question
  std::map<std::string, std::uint32_t> waits_in_;  // configurations in which it waits, by their key
  std::vector<Indices> waiters_;                   // their leaves
  std::vector<Waiting> waiting_;
  std::unordered_set<std::string> waits_on_;  // what stands there
  // Of the place that is looked at: what inputs may hold, and of which more could be known.
  std::vector<Span> inputs_;
  std::vector<bool> splits_, cared_for_;  // of which there is more to know; and it is
  std::vector<Part> known_now_;
  bool whole_ = false, runaway_ = false, undoes_ = false, unruly_ = false, remembered_then_ = false;
  bool broken_ = false, kept_ = false, first_met_ = false, too_many_ = false;
};

}  // namespace mobrin::proof
