// Carry: a state that was saved by names (save_instance.cpp) into an instance, and from one machine to another.
#include "mobrin/core/carry.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>
#include <limits>
#include <optional>
#include <unordered_map>

#include "engine/engine.hpp"
#include "instance/carry_names.hpp"

namespace mobrin {
namespace {

using detail::BlockHeader;
using detail::choices_of;
using detail::clip_names;
using detail::field_at;
using detail::header_of;
using detail::InputData;
using detail::InputKind;
using detail::kNoOffset;
using detail::MachineData;
using detail::name_or_number;
using detail::nameless;
using detail::number_of;
using detail::path_of;
using detail::region_of;
using detail::StateData;
using detail::ValueType;
using Named = SavedInstance::Named;

// Names by number. What is looked up mostly comes in order, so the next one is tried first.
class NameIndex {
 public:
  // `name_at(i)` for i below `count` stays where it is.
  template <class NameAt>
  std::size_t find(std::string_view name, std::size_t count, const NameAt& name_at) {
    for (const std::size_t guess : {last_, last_ + 1})
      if (guess < count && name_at(guess) == name) return last_ = guess;
    if (const auto number = number_of(name)) return *number < count ? *number : kNone;
    if (all_.empty())
      for (std::size_t i = 0; i < count; ++i) all_.try_emplace(name_at(i), i);
    const auto found = all_.find(name);
    return found == all_.end() ? kNone : last_ = found->second;
  }
  static constexpr std::size_t kNone = static_cast<std::size_t>(-1);

 private:
  std::size_t last_ = 0;
  std::unordered_map<std::string_view, std::size_t> all_;
};

constexpr std::int64_t kLongest = std::int64_t{1} << 62;

std::string shortest_text(double number) {
  char text[32];
  return {text, std::to_chars(text, text + sizeof text, static_cast<float>(number)).ptr};
}

// Fills a fresh block of a machine from what was saved.
class Carrier {
 public:
  Carrier(const SavedInstance& saved, const Machine& machine, std::byte* block)
      : saved_(saved), m_(machine.data()), b_(block), same_(saved.fingerprint == machine.fingerprint()) {}

  // Empty, and nothing is carried over, where numbers would have to stand for names in another machine.
  [[nodiscard]] bool understands() const { return same_ || !(nameless(m_) || goes_by_numbers()); }

  CarryLosses carry() {
    detail::make_block(m_, b_);
    BlockHeader& header = header_of(b_);
    header.now = header.anchor = std::clamp<std::int64_t>(saved_.now.count, 0, kLongest);
    header.frozen = static_cast<std::uint32_t>(std::clamp<std::int64_t>(saved_.frozen.count, 0, kLongestFreeze.count));
    header.set_rate(std::clamp(saved_.rate, 0, detail::kMaxSpeed));
    header.set_ordinal(std::min(saved_.ordinal, detail::kMaxOrdinal));
    header.flags = saved_.flags & (detail::kStarted | detail::kDirty | detail::kDone | detail::kReset |
                                   detail::kUnsettled | (same_ ? detail::kRetake : 0));
    for (const Named& input : saved_.inputs) carry_input(input);
    if ((header.flags & detail::kStarted) != 0) carry_states();
    if (!same_ && (header.flags & detail::kDone) == 0) header.flags |= detail::kDirty;
    detail::update_wake(m_, b_);
    return std::move(losses_);
  }

 private:
  void lose(CarryLoss::Kind kind, const std::string& name, std::string text) {
    losses_.push_back({kind, name, std::move(text)});
  }

  [[nodiscard]] bool goes_by_numbers() const {
    const auto numbered = [](const Named& each) { return number_of(each.name).has_value(); };
    return std::any_of(saved_.inputs.begin(), saved_.inputs.end(), numbered) ||
           std::any_of(saved_.regions.begin(), saved_.regions.end(),
                       [](const SavedRegion& each) { return number_of(each.play.state).has_value(); });
  }
  std::uint16_t find_state(std::string_view path) {
    if (path.empty()) return kNoIndex;
    const std::size_t found = states_.find(path, m_.state_infos.size(),
                                           [&](std::size_t s) { return std::string_view(m_.state_infos[s].path); });
    return found == NameIndex::kNone || found == 0 ? kNoIndex : static_cast<std::uint16_t>(found);
  }

  void carry_input(const Named& saved) {
    const std::size_t index = inputs_.find(saved.name, m_.input_defs.size(),
                                           [&](std::size_t i) { return std::string_view(m_.input_defs[i].name.text); });
    const auto lost = [&](const std::string& why) {
      lose(CarryLoss::Kind::input, saved.name, "the input \"" + saved.name + "\" " + why);
    };
    const auto clamped = [&](const std::string& was, const std::string& is) {
      lost("was " + was + " and is clamped to " + is);
    };
    if (index == NameIndex::kNone) return lost("is gone");
    const InputData& input = m_.inputs[index];
    const auto* boolean = std::get_if<bool>(&saved.value);
    const auto* whole = std::get_if<std::int64_t>(&saved.value);
    const auto* number = std::get_if<double>(&saved.value);
    const auto* words = std::get_if<std::string>(&saved.value);
    const std::string other = "is of another type now and has its start value";
    if (input.kind == InputKind::boolean) {
      if (boolean == nullptr) return lost(other);
      field_at<std::uint8_t>(b_, input.offset) = *boolean ? 1 : 0;
    } else if (input.kind == InputKind::whole) {
      if (whole == nullptr) return lost(other);
      const auto kept = static_cast<std::int32_t>(std::clamp<std::int64_t>(*whole, input.whole_min, input.whole_max));
      field_at<std::int32_t>(b_, input.offset) = kept;
      if (kept != *whole) clamped(std::to_string(*whole), std::to_string(kept));
    } else if (input.kind == InputKind::number) {
      if ((number == nullptr && whole == nullptr) || (number != nullptr && std::isnan(*number))) return lost(other);
      const double value = number != nullptr ? *number : static_cast<double>(*whole);
      const double kept = std::clamp(value, static_cast<double>(input.min), static_cast<double>(input.max));
      field_at<float>(b_, input.offset) = static_cast<float>(kept) + 0.0f;
      if (kept != value) clamped(shortest_text(value), shortest_text(kept));
    } else if (input.kind == InputKind::choice) {
      if (words == nullptr) return lost(other);
      const auto& choices = choices_of(m_, static_cast<std::uint16_t>(index));
      const auto choice = std::find_if(choices.begin(), choices.end(), [&](const Text& t) {
        return name_or_number(t.text, static_cast<std::size_t>(&t - choices.data())) == *words;
      });
      if (choice == choices.end()) return lost("was \"" + *words + "\", which is gone; it has its start value");
      field_at<std::uint8_t>(b_, input.offset) = static_cast<std::uint8_t>(choice - choices.begin());
    } else if (whole == nullptr) {
      lost(other);
    } else if (input.buffer > 0) {
      field_at<std::int64_t>(b_, input.offset) = std::min(*whole, header_of(b_).now + input.buffer);
    } else {
      field_at<std::uint8_t>(b_, input.offset) = *whole >= header_of(b_).now ? 1 : 0;
    }
  }

  void carry_states() {
    for (detail::StateData const& state : m_.states) {
      if (state.back != kNoOffset) field_at<std::uint16_t>(b_, state.back) = kNoIndex;
      if (state.last_child != kNoOffset) field_at<std::uint16_t>(b_, state.last_child) = kNoIndex;
      for (const detail::VarData& var : MachineData::view(m_.vars, state.vars)) write_variable(var, var.start);
    }
    for (std::uint16_t region = 0; region < m_.regions.size(); ++region) carry_rest(region);
    if (!same_) note_active();
    for (const Named& variable : saved_.variables) carry_variable(variable);
    for (const Named& memory : saved_.memories) carry_memory(memory);
    const StateData& root = m_.states[0];
    for (std::uint16_t r = root.region_begin; r < root.region_begin + root.region_count; ++r) carry_region(r);
    // Of states that are active still: others share their timers. One that had none begins at 0.
    for (const Named& timer : saved_.timers) {
      const std::uint16_t state = timer.state.empty() ? std::uint16_t{0} : find_state(timer.state);
      const auto* elapsed = std::get_if<std::int64_t>(&timer.value);
      if (state == kNoIndex || elapsed == nullptr || m_.states[state].timer == kNoOffset) continue;
      if (detail::is_active(m_, b_, state))
        field_at<std::int64_t>(b_, m_.states[state].timer) = std::clamp<std::int64_t>(*elapsed, 0, kLongest);
    }
  }

  void write_variable(const detail::VarData& var, double value) {
    if (var.type == ValueType::whole)
      field_at<std::int32_t>(b_, var.offset) = static_cast<std::int32_t>(std::clamp<double>(
          value, std::numeric_limits<std::int32_t>::min(), std::numeric_limits<std::int32_t>::max()));
    else if (var.type == ValueType::number)
      field_at<float>(b_, var.offset) = static_cast<float>(value) + 0.0f;
    else
      field_at<std::uint8_t>(b_, var.offset) = value != 0 ? 1 : 0;
  }

  // The paths of all states that were active, in order of their words. Of the same machine all are as they were.
  void note_active() {
    for (const SavedRegion& region : saved_.regions) {
      const std::string_view leaf = region.play.state;
      for (std::size_t end = leaf.find('/'); end != std::string_view::npos; end = leaf.find('/', end + 1))
        active_.push_back(leaf.substr(0, end));
      if (!leaf.empty()) active_.push_back(leaf);
    }
    std::sort(active_.begin(), active_.end());
  }
  [[nodiscard]] bool was_active(std::string_view path) const {
    return same_ || path.empty() || std::binary_search(active_.begin(), active_.end(), path);
  }

  void carry_variable(const Named& saved) {
    const std::uint16_t state = saved.state.empty() ? std::uint16_t{0} : find_state(saved.state);
    const std::string of = saved.state.empty() ? "" : " of \"" + saved.state + "\"";
    if (state == kNoIndex) return;         // with its state, which is told if it matters
    if (!was_active(saved.state)) return;  // what is left begins anew
    const StateData& data = m_.states[state];
    for (std::uint32_t i = data.vars.begin; i < data.vars.begin + data.vars.count; ++i) {
      if (name_or_number(m_.var_names[i], i) != saved.name) continue;
      const detail::VarData& var = m_.vars[i];
      const auto* boolean = std::get_if<bool>(&saved.value);
      const auto* whole = std::get_if<std::int64_t>(&saved.value);
      const auto* number = std::get_if<double>(&saved.value);
      if (boolean != nullptr && var.type == ValueType::boolean) return write_variable(var, *boolean ? 1 : 0);
      if (whole != nullptr && var.type != ValueType::boolean) return write_variable(var, static_cast<double>(*whole));
      if (number != nullptr && var.type == ValueType::number && !std::isnan(*number))
        return write_variable(var, *number);
      return lose(CarryLoss::Kind::variable, saved.name,
                  "the variable \"" + saved.name + "\"" + of + " is of another type now and has its start value");
    }
    lose(CarryLoss::Kind::variable, saved.name, "the variable \"" + saved.name + "\"" + of + " is gone");
  }

  void carry_memory(const Named& saved) {
    const std::uint16_t state = saved.state.empty() ? std::uint16_t{0} : find_state(saved.state);
    const auto* path = std::get_if<std::string>(&saved.value);
    const std::uint16_t remembered = path != nullptr ? find_state(*path) : kNoIndex;
    if (state == kNoIndex || remembered == kNoIndex) return;
    const StateData& data = m_.states[state];
    const std::uint32_t offset = saved.name == "back" ? data.back : data.last_child;
    // A child to come back to must be a child still; a leaf to go back to must lie in the same region.
    const bool fits = saved.name == "back"
                          ? m_.states[remembered].region == data.region && m_.states[remembered].initial == kNoIndex
                          : m_.states[remembered].parent == state;
    if (offset != kNoOffset && fits) field_at<std::uint16_t>(b_, offset) = remembered;
  }

  [[nodiscard]] const SavedRegion* saved_region(std::uint16_t region) const {
    const std::string path = region_of(m_, region);
    const auto found = std::find_if(saved_.regions.begin(), saved_.regions.end(),
                                    [&](const SavedRegion& each) { return each.path == path; });
    return found == saved_.regions.end() ? nullptr : &*found;
  }

  // What `to: back` finds there, also when nothing is active in it for now.
  void carry_rest(std::uint16_t region) {
    if (m_.regions[region].rest == kNoOffset) return;
    const SavedRegion* const saved = saved_region(region);
    const std::uint16_t rest = saved != nullptr ? find_state(saved->rest) : kNoIndex;
    const bool fits = rest != kNoIndex && m_.states[rest].region == region && m_.states[rest].initial == kNoIndex;
    field_at<std::uint16_t>(b_, m_.regions[region].rest) = fits ? rest : kNoIndex;
  }

  // Finds the leaf that `region` is to have, goes down to it, and on into the regions it has.
  void carry_region(std::uint16_t region) {
    const detail::RegionData& data = m_.regions[region];
    const SavedRegion* const saved = saved_region(region);
    const bool goes_on = saved != nullptr && !saved->play.state.empty();
    std::uint16_t leaf = goes_on ? surviving(saved->play.state, region) : data.initial;
    while (m_.states[leaf].initial != kNoIndex) leaf = m_.states[leaf].initial;
    field_at<std::uint16_t>(b_, data.leaf) = leaf;
    const SavedPlay* play = nullptr;
    if (goes_on) {
      if (saved->play.state == path_of(m_, leaf)) {
        play = &saved->play;
      } else {
        lose(CarryLoss::Kind::state, saved->play.state,
             "the state \"" + saved->play.state + "\" is gone; \"" + path_of(m_, leaf) + "\" stands in its place");
      }
      carry_fade(region, *saved);
    }
    carry_play(region, leaf, play);
    const StateData& state = m_.states[leaf];
    for (std::uint16_t r = state.region_begin; r < state.region_begin + state.region_count; ++r) carry_region(r);
  }

  // The deepest state on the way to `path` that still lies in `region`, or the region's initial one.
  std::uint16_t surviving(std::string path, std::uint16_t region) {
    while (!path.empty()) {
      const std::uint16_t state = find_state(path);
      if (state != kNoIndex && m_.states[state].region == region) return state;
      const std::size_t slash = path.rfind('/');
      path = slash == std::string::npos ? "" : path.substr(0, slash);
    }
    return m_.regions[region].initial;
  }

  void carry_play(std::uint16_t region, std::uint16_t leaf, const SavedPlay* saved) {
    const detail::PlayData& play = m_.states[leaf].play;
    const detail::Run run(m_, b_, m_.regions[region].slot, leaf);
    if (play.chooses()) run.set_choice(choice_now(play, leaf, saved));
    if (!play.moves()) return;
    const std::int32_t speed = detail::speed_now(m_, b_, play);
    if (saved == nullptr || !fill_play(run, leaf, *saved, speed, false)) {
      run.set_speed(speed);
      run.set_passes(speed < 0, 0);
      run.playhead() = run.edge_behind();
      if (saved != nullptr)
        lose(CarryLoss::Kind::play, saved->state,
             "what \"" + saved->state + "\" plays is another clip now; it begins anew");
    }
  }

  // The choice that was taken, if it is one still; else what the inputs say.
  std::uint8_t choice_now(const detail::PlayData& play, std::uint16_t state, const SavedPlay* saved) const {
    if (play.by == kNoIndex) {
      // Points have no names: the same one with the same clip, else the first with that clip.
      const auto plays_it = [&](std::size_t point) {
        return clip_names(m_, play, state, static_cast<std::uint8_t>(point)) == saved->clips;
      };
      if (const auto point = saved != nullptr ? number_of(saved->choice) : std::nullopt) {
        if (*point < play.clips.count && (same_ || plays_it(*point))) return static_cast<std::uint8_t>(*point);
        for (std::size_t each = 0; each < play.clips.count; ++each)
          if (plays_it(each)) return static_cast<std::uint8_t>(each);
      }
      return detail::chosen(m_, b_, play);
    }
    const auto& choices = choices_of(m_, play.by);
    const auto found = std::find_if(choices.begin(), choices.end(), [&](const Text& choice) {
      return saved != nullptr &&
             name_or_number(choice.text, static_cast<std::size_t>(&choice - choices.data())) == saved->choice;
    });
    return found != choices.end() ? static_cast<std::uint8_t>(found - choices.begin())
                                  : field_at<std::uint8_t>(b_, m_.inputs[play.by].offset);
  }

  // False where the state plays something else now.
  bool fill_play(const detail::Run& run, std::uint16_t state, const SavedPlay& saved, std::int32_t speed, bool fades) {
    if (saved.cycle <= 0 || clip_names(m_, run.play(), state, run.choice()) != saved.clips) return false;
    const std::int64_t before = std::clamp<std::int64_t>(saved.position, 0, saved.cycle << detail::kSubBits);
    run.playhead() = static_cast<std::int64_t>(detail::Wide{before} * run.clip().cycle / saved.cycle);
    // In another machine a constant speed is that machine's; one that is computed, and with it a turn, is taken anew at
    // the next advance, as after a write. At speed 0 the direction stays.
    const bool follows = run.play().follows();
    run.set_speed(
        std::clamp(same_ || (follows && !fades) ? saved.speed : speed, -detail::kMaxSpeed, detail::kMaxSpeed));
    // At rate 0 a turn waits, and from then on until the next advance, of one that is done for ever; so it does in the
    // save.
    const bool held = saved_.rate == 0 || (saved_.flags & (detail::kDirty | detail::kRetake | detail::kDone)) != 0;
    const bool waits = !fades && (same_ ? held && (follows || run.play().chooses()) : follows);
    const bool backward = waits || run.speed() == 0 ? saved.backward : run.speed() < 0;
    const std::int32_t most = run.clip().passes;
    bool over = most > 0 && saved.edges >= most;
    run.set_passes(backward, most == 0 ? 0 : std::clamp(saved.edges, 0, most));
    // A playhead on the edge it runs toward has reached it.
    if (!waits && !over && run.speed() != 0 && run.playhead() == run.edge_ahead()) {
      over = most == 1;
      run.set_passes(backward, over ? 1 : run.passes());
      run.playhead() = run.edge_behind();
    }
    if (over) run.playhead() = run.edge_ahead();
    return true;
  }

  void carry_fade(std::uint16_t region, const SavedRegion& saved) {
    const detail::RegionData& data = m_.regions[region];
    if (saved.fade_length <= 0 || saved.fade_run >= saved.fade_length) return;
    if (!data.fades() || saved.fade_length > kMaxDurationTicks << detail::kSubBits)
      return lose(CarryLoss::Kind::fade, saved.play.state, "what faded out under \"" + saved.play.state + "\" is cut");
    std::uint64_t sum = 0;
    std::size_t count = 0;
    for (const SavedLayer& layer : saved.layers) {
      const std::uint16_t state = find_state(layer.play.state);
      if (count == detail::kFadeLayers || layer.weight == 0 || state == kNoIndex || m_.states[state].region != region ||
          m_.states[state].last != state)
        continue;
      const detail::LayerData& to = data.layers[count];
      const detail::Run run(m_, b_, to.slot, state);
      if (run.play().chooses()) run.set_choice(choice_now(run.play(), state, &layer.play));
      if (run.play().moves() && !fill_play(run, state, layer.play, layer.play.speed, true)) continue;
      field_at<std::uint16_t>(b_, to.state) = state;
      field_at<std::uint32_t>(b_, to.weight) = layer.weight;
      field_at<std::uint8_t>(b_, to.loud) = layer.tells_cues ? 1 : 0;
      sum += layer.weight;
      ++count;
    }
    if (count < saved.layers.size() || sum > detail::kWholeWeight)
      lose(CarryLoss::Kind::fade, saved.play.state,
           "of what fades out under \"" + saved.play.state + "\" something is gone; the rest has its weight");
    if (count == 0 || sum > detail::kWholeWeight) return clear_layers(data);
    // What is gone leaves its weight to the newest.
    field_at<std::uint32_t>(b_, data.layers[count - 1].weight) +=
        static_cast<std::uint32_t>(detail::kWholeWeight - sum);
    field_at<std::int64_t>(b_, data.fade_length) = saved.fade_length;
    field_at<std::int64_t>(b_, data.fade_run) = std::max<std::int64_t>(0, saved.fade_run);
  }
  void clear_layers(const detail::RegionData& data) {
    for (const detail::LayerData& layer : data.layers) field_at<std::uint32_t>(b_, layer.weight) = 0;
  }

  const SavedInstance& saved_;
  const MachineData& m_;
  std::byte* b_;
  bool same_;
  NameIndex inputs_, states_;
  std::vector<std::string_view> active_;
  CarryLosses losses_;
};

}  // namespace

CarryLosses load(const SavedInstance& saved, Instance& into) {
  std::vector<std::uint64_t> room((into.block().size() + 7) / 8);
  auto* block = reinterpret_cast<std::byte*>(room.data());
  std::memcpy(block, into.block().data(), into.block().size());
  Carrier carrier(saved, into.machine(), block);
  if (!carrier.understands())
    return {{CarryLoss::Kind::machine, saved.machine,
             "one of the machines was packed without names, and they are not the same: nothing was carried over"}};
  CarryLosses losses = carrier.carry();
  static_cast<void>(into.restore({block, into.block().size()}));
  return losses;
}

namespace {

void lose_cues(const Machine& from, const Machine& into, CarryLosses& losses) {
  if (from.serial() == into.serial() || nameless(from.data()) || nameless(into.data())) return;
  const auto kept = into.cues();
  NameIndex index;
  for (const CueDef& cue : from.cues())
    if (index.find(cue.name.text, kept.size(),
                   [&](std::size_t i) -> const std::string& { return kept[i].name.text; }) == NameIndex::kNone)
      losses.push_back({CarryLoss::Kind::cue, cue.name.text,
                        "the cue \"" + cue.name.text + "\" is gone: who listens for it hears nothing"});
}

}  // namespace

CarryLosses carry_over(const Instance& from, Instance& into) {
  CarryLosses losses = load(save(from), into);
  lose_cues(from.machine(), into.machine(), losses);
  return losses;
}

CarryLosses carry_over(const Crowd& from, Crowd& into) {
  struct All {
    CarryLosses losses;
    std::vector<std::size_t> members;
  } all;
  into.take_over(
      from,
      [](void* context, const Instance& before, Instance& after) {
        auto& [losses, members] = *static_cast<All*>(context);
        for (CarryLoss& loss : load(save(before), after)) {
          const auto same =
              std::find_if(losses.begin(), losses.end(), [&](const CarryLoss& each) { return each.text == loss.text; });
          if (same != losses.end()) {
            ++members[static_cast<std::size_t>(same - losses.begin())];
            continue;
          }
          losses.push_back(std::move(loss));
          members.push_back(1);
        }
      },
      &all);
  for (std::size_t i = 0; i < all.losses.size(); ++i)
    if (all.members[i] > 1) all.losses[i].text += " (" + std::to_string(all.members[i]) + " members)";
  lose_cues(from.machine(), into.machine(), all.losses);
  return std::move(all.losses);
}

}  // namespace mobrin
