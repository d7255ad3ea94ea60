// The names that what is carried goes by.
#pragma once

#include <charconv>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "machine/machine_data.hpp"

namespace mobrin::detail {

// A machine that was packed without names; what it holds goes by numbers, `#3`, which only the same machine
// understands.
[[nodiscard]] inline bool nameless(const MachineData& m) {
  return m.state_infos.size() > 1 && m.state_infos[1].path.empty();
}
[[nodiscard]] inline std::string name_or_number(const std::string& name, std::size_t index) {
  return name.empty() ? "#" + std::to_string(index) : name;
}
[[nodiscard]] inline std::optional<std::size_t> number_of(std::string_view name) {
  std::size_t number = 0;
  if (name.size() < 2 || name[0] != '#') return std::nullopt;
  const auto [end, error] = std::from_chars(name.data() + 1, name.data() + name.size(), number);
  return error == std::errc() && end == name.data() + name.size() ? std::optional(number) : std::nullopt;
}

[[nodiscard]] inline std::string path_of(const MachineData& m, std::uint16_t state) {
  return state == kNoIndex || state == 0 ? "" : name_or_number(m.state_infos[state].path, state);
}
[[nodiscard]] inline std::string region_of(const MachineData& m, std::size_t region) {
  return nameless(m) ? name_or_number("", region) : m.region_infos[region].path;
}

[[nodiscard]] inline std::vector<std::string> clip_names(const MachineData& m, const PlayData& play,
                                                         std::uint16_t state, std::uint8_t choice) {
  std::vector<std::string> names;
  const auto& clips = m.state_infos[state].clips;
  for (std::size_t i = 0; i < clips.size(); ++i)
    if (!play.chooses() || i == choice) names.push_back(name_or_number(m.clip_infos[clips[i]].def.name.text, clips[i]));
  return names;
}

[[nodiscard]] inline const std::vector<Text>& choices_of(const MachineData& m, std::uint16_t input) {
  return std::get<ChoiceInput>(m.input_defs[input].kind).choices;
}

}  // namespace mobrin::detail
