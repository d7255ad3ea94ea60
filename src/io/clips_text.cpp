// Writing files of clips and of tracks.
#include "clips_text.hpp"

#include <algorithm>
#include <cstdio>
#include <cstdlib>

#include "mobrin/core/names.hpp"

namespace mobrin {

std::string quoted(const std::string& text, bool always) {
  const bool plain = std::all_of(text.begin(), text.end(), [](unsigned char c) {
    const bool letter = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9');
    return letter || c == '_' || c == '/' || c == '.' || c == '-' || c >= 0x80;
  });
  if (plain && !always && !text.empty() && text.front() != '-') return text;
  std::string out = "\"";
  for (const char c : text) {
    char escape[8];
    std::snprintf(escape, sizeof escape, "\\u%04x", static_cast<unsigned>(static_cast<unsigned char>(c)));
    const bool control = static_cast<unsigned char>(c) < 0x20 || c == 0x7f;
    out += control ? std::string(escape) : c == '"' || c == '\\' ? std::string("\\") + c : std::string(1, c);
  }
  return out + "\"";
}

namespace io {

std::string time_text(Ticks time) {
  constexpr std::int64_t kMillisecond = kTicksPerSecond / 1000;
  if (time.count % kMillisecond == 0) return std::to_string(time.count / kMillisecond) + "ms";
  char text[48];
  std::snprintf(text, sizeof text, "%lld.%07lldms", static_cast<long long>(time.count / kMillisecond),
                static_cast<long long>((time.count % kMillisecond * 10'000'000 + kMillisecond / 2) / kMillisecond));
  return text;
}

std::string tracks_text(const std::vector<ClipMarksDef>& marks) {
  std::string text =
      "# Tracks made by `mobrin import --tracks`, which writes this file anew: other marks lie elsewhere.\n"
      "mobrin: 1\nmarks:\n";
  const auto number = [](double value) { return detail::shortest_text(static_cast<float>(value)); };
  constexpr const char* kCurves[] = {"step", "linear", "cubic"};
  for (const ClipMarksDef& each : marks) {
    text += "  " + each.clip.text + ":\n    tracks:\n";
    for (const TrackDef& track : each.tracks) {
      text += "      " + track.name.text + ": {curve: " + kCurves[static_cast<std::size_t>(track.curve)] + ", keys: {";
      for (std::size_t i = 0; i < track.keys.size(); ++i) {
        const TrackKey& key = track.keys[i];
        text += (i == 0 ? "" : ", ") + time_text(key.time) + ": ";
        text += track.curve == TrackCurve::cubic
                    ? "[" + number(key.in) + ", " + number(key.value) + ", " + number(key.out) + "]"
                    : number(key.value);
      }
      text += "}}\n";
    }
  }
  return text;
}

}  // namespace io
}  // namespace mobrin
