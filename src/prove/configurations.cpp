#include "configurations.hpp"

#include <algorithm>

namespace mobrin::proof {

namespace {

void add_config(std::string& out, const Config& config) {
  add_bytes(out, config.leaves);
  add_bytes(out, config.variables);
  add_bytes(out, config.memories);
  add_bytes(out, config.ages);
}
std::string key_of(const Config& config) {
  std::string out;
  add_config(out, config);
  return out;
}

}  // namespace

std::string key_of(const Moment& moment) {
  std::string out;
  out.reserve(256);  // of most
  add_config(out, moment.config);
  for (const auto* list : {&moment.cues, &moment.told, &moment.looped}) add_bytes(out, *list);
  add_bytes(out, moment.fresh);
  add_bytes(out, moment.begun);
  add_bytes(out, moment.held);
  out += '|';
  add_bytes(out, moment.early);
  out += moment.timed ? 't' : 'w';
  return out;
}

void Configurations::clear() {
  all_.clear();
  index_.clear();
}

std::pair<std::uint32_t, bool> Configurations::add(const Config& config) {
  const auto [found, fresh] = index_.try_emplace(key_of(config), static_cast<std::uint32_t>(all_.size()));
  if (fresh) all_.push_back(config);
  return {found->second, fresh};
}

std::optional<std::uint32_t> Configurations::find(const Config& config) const {
  const auto found = index_.find(key_of(config));
  return found == index_.end() ? std::nullopt : std::optional(found->second);
}

Truths Configurations::pending(std::uint32_t node) const {
  const std::vector<Span> any = model_.any_inputs();
  Model::Looked looked;
  return model_.pending(all_[node], model_.pulses_in_time(), any, std::vector<bool>(any.size(), false), looked);
}

std::optional<std::vector<Configurations::Outcome>> Configurations::outcomes(std::uint32_t node,
                                                                             const std::vector<Span>& inputs,
                                                                             const Truths& pulses, bool timed,
                                                                             std::uint16_t told) const {
  const std::vector<bool> no_split(inputs.size(), false);
  std::vector<Outcome> out;
  std::vector<Truths> loops = model_.loops_of(all_[node]);
  if (!timed) loops.resize(1);
  for (const Truths& looped : loops) {
    std::vector<Moment> moments = model_.instants(all_[node], pulses, looped, inputs, timed);
    Known known;
    for (std::uint32_t i = 0; i < moments.size(); ++i) {
      if (told != kNoIndex) moments[i].cues[told] = moments[i].told[told] = Truth::yes;
      heard_.forget_others(moments[i]);
      (void)known.find_or_add(key_of(moments[i]), moments[i].pulses, i);
    }
    for (std::size_t i = 0; i < moments.size(); ++i) {
      if (moments.size() > kMostMoments) return std::nullopt;
      const Model::Looked looked = model_.look(moments[i], inputs, no_split, false);
      if (looked.too_many) return std::nullopt;
      if (looked.rests) {
        const auto end = find(moments[i].config);
        if (!end) return std::nullopt;
        out.push_back({*end, entered_in(moments[i]), looped_in(looped), begun_in(moments[i]), moments[i].pulses,
                       heard_.told_of(moments[i])});
      }
      for (const Step& step : looked.steps) {
        Moment after = step.after;
        heard_.forget_others(after);
        const auto number = static_cast<std::uint32_t>(moments.size());
        if (!known.find_or_add(key_of(after), after.pulses, number)) moments.push_back(std::move(after));
      }
    }
  }
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

}  // namespace mobrin::proof
