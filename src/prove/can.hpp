// Claims of what can be brought about: from where the game surely can, and from where nothing can.
#pragma once

#include <optional>
#include <vector>

#include "space.hpp"

namespace mobrin::proof {

class Can {
 public:
  // `space` was asked two things after each instant: from where it shall be possible, and `aim`, what shall be. All
  // outlive this. REQUIRES: the space is whole.
  Can(const Model& model, const Space& space, const Asked& asked, const Term& aim)
      : model_(model), space_(space), asked_(asked), aim_(aim) {}

  // Whether the game can surely bring it about from every configuration that is asked for.
  [[nodiscard]] bool from_everywhere() const;
  // Configurations from which no run leads to it.
  [[nodiscard]] std::vector<bool> hopeless() const;

 private:
  [[nodiscard]] Truth aim_at(std::uint32_t node, const std::vector<Span>& inputs) const;
  [[nodiscard]] std::vector<bool> inputs_read(bool in_speeds) const;
  [[nodiscard]] std::vector<std::vector<Span>> choices() const;
  [[nodiscard]] bool allowed(std::uint32_t node, const std::vector<Span>& inputs,
                             const std::vector<Truth>& written) const;
  [[nodiscard]] std::vector<bool> good_nodes(const std::vector<std::vector<Span>>& values,
                                             const std::vector<Truth>& none) const;
  [[nodiscard]] bool written_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<Truth>& press,
                                  const std::vector<Truth>& left, const std::vector<bool>& good) const;
  [[nodiscard]] bool settles_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<Truth>& pending,
                                  const std::vector<bool>& good) const;
  [[nodiscard]] static std::vector<Truth> still_pending(std::vector<Truth> presses, const Space::Outcome& end);
  [[nodiscard]] bool goes_on_well(std::uint32_t node, const std::vector<Span>& held, std::vector<Truth> pending,
                                  const std::vector<bool>& good) const;
  [[nodiscard]] bool waits_well(std::uint32_t node, const std::vector<Span>& held, const std::vector<Truth>& none,
                                const std::vector<bool>& good) const;

  const Model& model_;
  const Space& space_;
  const Asked& asked_;
  const Term& aim_;
};

}  // namespace mobrin::proof
