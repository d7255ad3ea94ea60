// Claims of what can be brought about: from where the game surely can, and from where nothing can.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <utility>
#include <vector>

#include "space.hpp"

namespace mobrin::proof {

class Can {
 public:
  // `aim`: what shall be. `configurations`: all that may be come to at rest, known by what the model knows now. All
  // outlive this. `next`: by configuration those that an instant may make of it; empty where that is not known.
  // `work`: how often it may be asked what comes of one, beside some times for each of not too many.
  Can(const Model& model, const Configurations& configurations, const Asked& asked, const Term& aim, std::size_t work,
      std::vector<std::vector<std::uint32_t>> next = {});

  // Whether the game can surely bring it about from each of these. REQUIRES: the machine always comes to rest.
  [[nodiscard]] bool from_all(const std::vector<std::uint32_t>& nodes);

 private:
  static constexpr std::size_t kWorkOfANode = 500, kMostNodes = 2'000;

  [[nodiscard]] const Config& config(std::uint32_t node) const { return configurations_.all()[node]; }
  [[nodiscard]] std::optional<std::vector<Configurations::Outcome>> outcomes(std::uint32_t node,
                                                                             const std::vector<Span>& inputs,
                                                                             const Truths& pulses, bool timed,
                                                                             std::uint16_t told = kNoIndex);
  [[nodiscard]] Truth aim_at(std::uint32_t node, const std::vector<Span>& inputs, const Truths* told = nullptr) const;
  [[nodiscard]] std::vector<bool> inputs_read(const Flags& active) const;
  [[nodiscard]] std::vector<std::vector<Span>> choices(std::uint32_t node, bool all) const;
  [[nodiscard]] std::vector<std::uint16_t> presses(std::uint32_t node, bool all) const;
  [[nodiscard]] bool allowed(std::uint32_t node, const std::vector<Span>& inputs, const Truths& written) const;
  [[nodiscard]] bool rests_for_ever(std::uint32_t node) const;
  void find_good(std::vector<bool>& good);
  [[nodiscard]] bool leads_from_all(const std::vector<std::uint32_t>& nodes, const std::vector<bool>& good);
  [[nodiscard]] bool leads_to_good(std::uint32_t node, bool all, const std::vector<bool>& good);
  [[nodiscard]] bool written_well(std::uint32_t node, const std::vector<Span>& held, const Truths& press,
                                  const Truths& left, const std::vector<bool>& good);
  [[nodiscard]] bool all_well(const std::vector<Configurations::Outcome>& ends, const std::vector<Span>& held,
                              const Truths& left, const std::vector<bool>& good);
  [[nodiscard]] bool settles_well(std::uint32_t node, const std::vector<Span>& held, const Truths& pending,
                                  const std::vector<bool>& good);
  [[nodiscard]] static Truths still_pending(Truths presses, const Configurations::Outcome& end);
  [[nodiscard]] bool goes_on_well(std::uint32_t node, const std::vector<Span>& held, Truths pending,
                                  const std::vector<bool>& good);
  [[nodiscard]] bool waits_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<bool>& good);

  // Little by little, see can_rounds.cpp.
  void find_charges();
  [[nodiscard]] std::optional<double> rounds_in(const std::set<std::uint32_t>& nodes, std::uint16_t region,
                                                const std::vector<Span>& held) const;
  [[nodiscard]] bool charges_well(std::uint32_t node, std::uint16_t region, const std::vector<bool>& good);

  // By a place of what has just begun.
  [[nodiscard]] bool leads_later(const Configurations::Outcome& end, const std::vector<bool>& good);
  [[nodiscard]] std::optional<std::vector<std::uint32_t>> waits_in(std::uint32_t node, std::uint16_t region,
                                                                   const std::vector<Span>& held, const Truths& known,
                                                                   const std::vector<bool>& good);

  // A cue that it tells, see can_cue.cpp.
  void find_tellers();
  [[nodiscard]] Truth aim_after(const Configurations::Outcome& end, const std::vector<Span>& held) const;
  [[nodiscard]] bool tells_well(std::uint32_t node, std::uint16_t region, const std::vector<bool>& good);
  [[nodiscard]] bool tells_in_a_round(std::uint32_t node, const std::vector<Span>& held, const std::vector<bool>& good);
  [[nodiscard]] bool told_well(const std::vector<std::uint32_t>& nodes, const std::vector<Span>& held,
                               std::uint16_t cue, const Truths& known, const std::vector<bool>& good);

  // Through a window, see can_window.cpp.
  void find_windows();
  [[nodiscard]] bool opens_well(std::uint32_t node, std::uint16_t region, const std::vector<bool>& good);
  [[nodiscard]] bool presses_well(const std::vector<std::uint32_t>& nodes, const std::vector<Span>& held,
                                  std::uint16_t pulse, const Truths& known, const std::vector<bool>& good);

  const Model& model_;
  const Configurations& configurations_;
  const Asked& asked_;
  const Term& aim_;
  std::vector<std::vector<std::uint32_t>> next_;
  std::size_t work_;   // that is left
  const Truths none_;  // no pulse
  const std::vector<bool> read_anywhere_;
  std::vector<bool> sets_a_speed_;
  const std::vector<bool> acted_on_;  // by input: actions compare it
  const std::vector<std::vector<Span>> cells_to_write_;
  const std::vector<bool> related_;      // by input: it is held against something else
  std::vector<bool> charges_;            // by state: its rounds do something, and it has timers
  bool charging_ = false;                // that is looked at
  std::vector<bool> has_windows_;        // by state: a rule in it or around it asks for one
  std::vector<std::uint16_t> aim_cues_;  // of which the aim speaks
  std::vector<std::uint16_t> cues_;      // the same, and for which rules wait
  std::vector<bool> tells_;              // by state: its clip tells one of them
  // By configuration and region that has just begun what it shows: whether it leads on well by a place of that, and of
  // how much that is good it was looked at.
  struct Later {
    bool leads = false;
    std::size_t good_count = 0;
  };
  std::map<std::pair<std::uint32_t, std::uint16_t>, Later> later_;
  int depth_ = 0;
};

// Configurations from which no run leads to what the second of the terms asked after each instant says.
[[nodiscard]] std::vector<bool> hopeless(const Space& space);

}  // namespace mobrin::proof
