#include "hints.hpp"

#include <algorithm>
#include <optional>
#include <set>

namespace mobrin::proof {
namespace {

constexpr std::size_t kMostEdges = 60, kMostOfAnEdge = 4;

// Instants at which the claim may be broken, and those that lead to them.
std::vector<std::uint32_t> edges_against(const Space& space, const ClaimDef& claim) {
  const auto answer = [&](std::uint32_t edge, std::size_t term) { return space.answers(space.edges()[edge])[term]; };
  std::set<std::uint32_t> out;
  for (std::uint32_t e = 0; e < space.edges().size() && out.size() < kMostEdges; ++e) {
    const Truth first = answer(e, 0);
    switch (claim.kind) {
      case ClaimKind::never:
        if (first != Truth::no) out.insert(e);
        break;
      case ClaimKind::always:
        if (first != Truth::yes) out.insert(e);
        break;
      case ClaimKind::once:
        if (first != Truth::no || answer(e, 1) != Truth::yes) out.insert(e);
        break;
      case ClaimKind::next:
        if (first == Truth::no) break;
        for (const std::uint32_t next : space.out_of()[space.edges()[e].to])
          if (answer(next, 0) != Truth::yes && answer(next, 1) != Truth::yes) out.insert({e, next});
        break;
      case ClaimKind::when:
      case ClaimKind::within:
        if (first != Truth::no && answer(e, 1) != Truth::yes) out.insert(e);
        break;
      case ClaimKind::can:
        break;
    }
  }
  return {out.begin(), out.end()};
}

}  // namespace

std::optional<Press> press_of(const Model& model, const std::vector<Span>& inputs,
                              const std::vector<std::uint16_t>& pulses) {
  const auto all = model.machine().inputs();
  const std::vector<Span> any = model.any_inputs();
  Press out;
  for (std::uint16_t i = 0; i < all.size(); ++i) {
    if (inputs[i] == any[i]) continue;
    const auto value = to_write(all[i], inputs[i]);
    if (!value) return std::nullopt;
    out.values.emplace_back(i, *value);
  }
  out.pulses = pulses;
  if (out.empty()) return std::nullopt;
  return out;
}

std::vector<Hint> hints_against(Space& space, const Model& model, const ClaimDef& claim) {
  std::vector<Hint> out;
  for (const auto& [number, ways] : space.ways_of(edges_against(space, claim), kMostOfAnEdge)) {
    const Edge& edge = space.edges()[number];
    Hint hint;
    if (edge.from != UINT32_MAX) hint.leaves = space.nodes()[edge.from].leaves;
    for (const Space::Written& written : ways) {
      auto press = press_of(model, written.inputs, written.pulses);
      if (!press) continue;
      hint.press = std::move(*press);
      if (std::find(out.begin(), out.end(), hint) == out.end()) out.push_back(hint);
    }
  }
  return out;
}

}  // namespace mobrin::proof
