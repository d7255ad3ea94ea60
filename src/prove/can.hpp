// Claims of what can be brought about: from where the game surely can, and from where nothing can.
#pragma once

#include <climits>
#include <map>
#include <optional>
#include <set>
#include <tuple>
#include <utility>
#include <vector>

#include "guide.hpp"
#include "space.hpp"

namespace mobrin::proof {

// Whether a term is false of what is active and these variables whatever is written, while nothing comes of that.
[[nodiscard]] bool is_never(const Model& model, const Term& term, const Flags& active, const Values& variables);

class Can {
 public:
  // `aim`: what shall be. `configurations`: all that may be come to at rest, known by what the model knows now. All
  // outlive this. `before`: by configuration those of which an instant may make it; empty where that is not known.
  // `work`: how often it may be asked what comes of one, beside some times for each of not too many.
  Can(const Model& model, const Configurations& configurations, const Asked& asked, const Term& aim, std::size_t work,
      std::vector<std::vector<std::uint32_t>> before = {});

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
  // What a game may choose to write, see can_choices.cpp: what it starts with and one thing else; the same and what
  // leads nearer, as far as that is known; all that is read where it is; and all that is read anywhere.
  enum class Breadth : std::uint8_t { few, guided, near, all };
  void find_parts();
  [[nodiscard]] std::vector<std::vector<Span>> few_choices() const;
  void find_guide();
  [[nodiscard]] std::vector<std::vector<Span>> guided_choices(std::uint32_t node) const;
  [[nodiscard]] std::vector<std::vector<Span>> choices(std::uint32_t node, Breadth breadth) const;
  [[nodiscard]] std::vector<std::uint16_t> presses(std::uint32_t node, bool all) const;
  [[nodiscard]] bool allowed(std::uint32_t node, const std::vector<Span>& inputs, const Truths& written) const;
  [[nodiscard]] bool ends_without(std::uint32_t node) const;
  [[nodiscard]] bool rests_for_ever(std::uint32_t node, std::uint16_t until = kNoIndex) const;
  [[nodiscard]] bool is_good(std::uint32_t node);
  void miss(std::uint32_t node);
  void find_order();
  [[nodiscard]] std::vector<bool> leading(bool far) const;
  void find_good();
  [[nodiscard]] bool leads_from_all(const std::vector<std::uint32_t>& nodes);
  [[nodiscard]] bool leads_to_good(std::uint32_t node);
  [[nodiscard]] bool presses_at_once(std::uint32_t node, const std::vector<Span>& held, const Truths& pending);
  // These pulses, where others may be alive already; `left`: what may still be, where nothing takes it.
  struct Press {
    Truths written, alive, left;
  };
  [[nodiscard]] Press press_of(const std::vector<std::uint16_t>& together, const Truths& pending) const;
  [[nodiscard]] bool pressed_well(std::uint32_t node, const std::vector<Span>& held,
                                  const std::vector<std::uint16_t>& together, const Truths& pending);
  [[nodiscard]] bool written_well(std::uint32_t node, const std::vector<Span>& held, const Truths& press,
                                  const Truths& left);
  [[nodiscard]] bool all_well(const std::vector<Configurations::Outcome>& ends, const std::vector<Span>& held,
                              const Truths& left);
  [[nodiscard]] bool settles_well(std::uint32_t node, const std::vector<Span>& held, const Truths& pending);
  [[nodiscard]] static Truths still_pending(Truths presses, const Configurations::Outcome& end);
  [[nodiscard]] bool goes_on_well(std::uint32_t node, const std::vector<Span>& held, Truths pending);
  [[nodiscard]] bool waits_well(std::uint32_t node, const std::vector<Span>& held);

  // Little by little, see can_rounds.cpp.
  void find_charges();
  [[nodiscard]] std::optional<double> rounds_in(const std::set<std::uint32_t>& nodes, std::uint16_t region,
                                                const std::vector<Span>& held) const;
  [[nodiscard]] bool charges_well(std::uint32_t node, std::uint16_t region);

  // By a place of what has just begun.
  [[nodiscard]] bool leads_later(const Configurations::Outcome& end, const std::vector<Span>& held);
  [[nodiscard]] std::optional<std::vector<std::uint32_t>> waits_in(std::uint32_t node, std::uint16_t region,
                                                                   const std::vector<Span>& held, const Truths& known);

  // A cue that it tells, see can_cue.cpp.
  void find_tellers();
  void note_points_of_blend(std::uint16_t state);
  [[nodiscard]] Truth aim_after(const Configurations::Outcome& end, const std::vector<Span>& held) const;
  [[nodiscard]] bool tells_well(std::uint32_t node, std::uint16_t region, Course course);
  [[nodiscard]] bool tells_in_a_round(std::uint32_t node, const std::vector<Span>& held);
  [[nodiscard]] bool told_well(const std::vector<std::uint32_t>& nodes, const std::vector<Span>& held,
                               std::uint16_t cue, const Truths& known);

  // Through a window, see can_window.cpp.
  void find_windows();
  [[nodiscard]] bool opens_well(std::uint32_t node, std::uint16_t region, Course course);
  [[nodiscard]] bool presses_well(const std::vector<std::uint32_t>& nodes, const std::vector<Span>& held,
                                  std::uint16_t pulse, const Truths& known);

  const Model& model_;
  const Configurations& configurations_;
  const Asked& asked_;
  const Term& aim_;
  const std::vector<std::vector<std::uint32_t>> before_;
  std::size_t work_;   // that is left
  const Truths none_;  // no pulse
  std::vector<bool> read_anywhere_;
  std::vector<std::vector<double>> blend_points_;  // by input: where a clip that tells something is shown alone
  std::vector<std::vector<Span>> parts_{};         // by input: what may be written of it
  std::vector<bool> charges_;                      // by state: its rounds do something, and it has timers
  bool charging_ = false;                          // that is looked at
  std::vector<bool> has_windows_;                  // by state: a rule in it or around it asks for one
  std::vector<std::uint16_t> aim_cues_;            // of which the aim speaks
  std::vector<std::uint16_t> cues_;                // the same, and for which rules wait
  std::vector<bool> tells_;                        // by state: its clip tells one of them
  // By configuration, region that has just begun what it shows, and the way that runs: whether it leads on well
  // by a place of that; if not, what it asked for that was not good.
  struct Later {
    bool leads = false;
    std::vector<std::uint32_t> missed{};
    std::uint64_t noted_in = 0;  // a look for which that is noted already
    int depth = 0;               // in which it is looked at just now
  };
  std::map<std::tuple<std::uint32_t, std::uint16_t, Course>, Later> later_;
  std::vector<bool> good_;                                        // from here, if no press is pending
  std::vector<std::pair<std::uint32_t, std::uint32_t>> order_{};  // distance and configuration, as they are looked at
  std::vector<std::uint32_t> missed_{};   // in the look at hand: that were asked for and are not good
  std::vector<std::uint64_t> missed_in_;  // by configuration: the look in which it was noted last
  std::uint64_t look_ = 0, looks_ = 0;
  int depth_ = 0, lowest_ = INT_MAX;      // of what is looked at just now: the lowest that was come to again
  bool deep_ = true;                      // places of what has just begun are looked at
  Breadth breadth_ = Breadth::all;        // of what is tried just now
  std::vector<std::vector<Span>> few_{};  // choices that are tried first
  std::optional<Guide> guide_{};          // to where the aim may be so; once it is asked for
};

// Configurations from which no run leads to what the second of the terms asked after each instant says.
[[nodiscard]] std::vector<bool> hopeless(const Space& space);

}  // namespace mobrin::proof
