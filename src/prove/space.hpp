// All that a machine can come to: its configurations at rest, and what each instant makes of them.
#pragma once

#include <compare>
#include <map>
#include <string>
#include <unordered_map>

#include "at_rest.hpp"
#include "configurations.hpp"
#include "settling.hpp"

namespace mobrin::proof {

// An instant: from one configuration at rest to another, with the answers.
struct Edge {
  std::uint32_t from = 0, to = 0, answers = 0;  // answers: an index into Space::answers()
  std::uint64_t looped = 0;                     // a bit a region: its play came round
  Indices fresh{};                              // by region: the outermost state that was entered
};

struct Limits {
  std::size_t nodes = 20'000, steps = 400'000, values_of_a_leaf = 1'000;
  bool times = false;  // edges tell what was entered and came round
};

class Space {
 public:
  Space(Model& model, Asked asked, Limits limits = {});

  // Whether all was looked at. Where not, nothing follows from what is missing.
  [[nodiscard]] bool whole() const { return whole_; }
  // A settling may not come to rest.
  [[nodiscard]] bool runaway() const { return runaway_; }
  // After a rule that takes a pulse another may lead back to what it left, at the same instant.
  [[nodiscard]] bool undoes_a_press() const { return undoes_; }
  [[nodiscard]] const std::vector<Config>& nodes() const { return nodes_.all(); }
  [[nodiscard]] const Configurations& configurations() const { return nodes_; }
  [[nodiscard]] const std::vector<Edge>& edges() const { return edges_; }
  // By edge: first the terms asked before, then those asked after.
  [[nodiscard]] const Truths& answers(const Edge& edge) const { return answers_[edge.answers]; }
  [[nodiscard]] bool assumptions_kept() const { return kept_; }
  [[nodiscard]] const std::vector<std::vector<std::uint32_t>>& out_of() const { return out_of_; }

  // What may be written, and pressed, for some of the edges, by edge: of each at most so many ways.
  struct Written {
    std::vector<Span> inputs;
    std::vector<std::uint16_t> pulses{};
  };
  using Ways = std::map<std::uint32_t, std::vector<Written>>;
  [[nodiscard]] Ways ways_of(const std::vector<std::uint32_t>& edges, std::size_t most);

 private:
  struct Chosen {
    std::vector<Span> inputs;
    std::vector<bool> split;  // more could be known
  };
  // What makes an instant: the game that writes, or time.
  struct Occasion {
    Truths alive, written, looped;
    bool timed = false;
  };
  [[nodiscard]] std::vector<Occasion> occasions(std::optional<std::uint32_t> node) const;
  [[nodiscard]] std::optional<bool> may_rest(const Config& config, const Chosen& chosen, std::uint16_t& need);
  [[nodiscard]] std::vector<Moment> starts(std::optional<std::uint32_t> node, const Truths& alive,
                                           const Occasion& occasion, const Chosen& chosen);
  bool explore(std::size_t enough);
  bool expand(std::optional<std::uint32_t> node);
  // One settling under chosen inputs; false: more must be known of `need`.
  enum class Settled : std::uint8_t { done, split, limit };
  Settled settle(Moment start, std::optional<std::uint32_t> node, const Chosen& chosen, const Truths& written,
                 const Truths& before, std::uint16_t& need);
  void rest_where_done(std::uint32_t node, const Chosen& chosen, const Truths& written, Truths before);
  std::uint32_t node_of(const Config& config);
  std::uint32_t add_edge(std::uint32_t from, const Moment& end, std::uint64_t looped, Truths answers);
  [[nodiscard]] Chosen everything() const;
  [[nodiscard]] std::optional<std::uint16_t> needed(const Term& term, const std::vector<bool>& split) const;

  Model& model_;
  Asked asked_;
  Limits limits_;
  std::vector<std::uint16_t> asked_pulses_;  // told apart: written or not
  std::vector<std::uint16_t> asked_cues_;    // the same: told as an instant begins or not
  Configurations nodes_;
  std::vector<Edge> edges_;
  std::vector<std::vector<std::uint32_t>> out_of_;  // edges by the node that they leave
  std::unordered_map<std::string, std::uint32_t> edge_index_;
  std::vector<Truths> answers_;
  std::unordered_map<std::string, std::uint32_t> answer_index_;
  std::unordered_map<std::string, std::size_t> of_leaf_;  // configurations of the same leaves
  AtRest at_rest_;
  // Of ways_of(), while it goes on.
  Ways* wanted_ = nullptr;
  std::size_t most_wanted_ = 0;
  std::size_t steps_ = 0;
  bool whole_ = false, runaway_ = false, unruly_ = false, undoes_ = false, kept_ = false, crowded_ = false;
};

}  // namespace mobrin::proof
