// Writing files of clips and of tracks.
#include "clips_text.hpp"

#include <algorithm>
#include <cctype>
#include <cstdio>
#include <cstdlib>

namespace mobrin::io {
namespace {

// A path as a YAML value: in quotes where it is not plain.
std::string quoted(const std::string& text) {
  const bool plain = std::all_of(text.begin(), text.end(), [](unsigned char c) {
    return std::isalnum(c) != 0 || c == '_' || c == '/' || c == '.' || c == '-' || c >= 0x80;
  });
  if (plain && !text.empty() && text.front() != '-') return text;
  std::string out = "\"";
  for (const char c : text) out += c == '"' || c == '\\' ? std::string("\\") + c : std::string(1, c);
  return out + "\"";
}

// The nearest text of a time that is read as the same ticks again.
std::string time_text(Ticks time) {
  constexpr std::int64_t kMillisecond = kTicksPerSecond / 1000;
  if (time.count % kMillisecond == 0) return std::to_string(time.count / kMillisecond) + "ms";
  char text[48];
  std::snprintf(text, sizeof text, "%lld.%07lldms", static_cast<long long>(time.count / kMillisecond),
                static_cast<long long>((time.count % kMillisecond * 10'000'000 + kMillisecond / 2) / kMillisecond));
  return text;
}

// What is in the brackets of `frames:`, runs of numbers as ranges; empty where it would say nothing new: all frames of
// a list of images, each once.
std::string frames_text(const ClipDef& clip) {
  const bool listed = clip.frames.front().art.tile.empty();
  const auto cell = [&](std::size_t at) {
    return listed ? static_cast<long long>(at) : std::atoll(clip.frames[at].art.tile.c_str());
  };
  std::string out;
  bool plain = listed;
  for (std::size_t i = 0; i < clip.frames.size();) {
    const std::int32_t hold = clip.frames[i].hold;
    std::size_t end = i + 1;
    while (end < clip.frames.size() && clip.frames[end].hold == hold && cell(end) == cell(end - 1) + 1) ++end;
    plain = plain && hold == 1;
    if (!out.empty()) out += ", ";
    out += std::to_string(cell(i));
    if (end - i > 1) out += "-" + std::to_string(cell(end - 1));
    if (hold > 1) out += "*" + std::to_string(hold);
    i = end;
  }
  return plain ? "" : out;
}

std::string art_text(const ClipDef& clip) {
  const FrameArt& art = clip.frames.front().art;
  if (art.source.empty()) return "";
  if (art.tile.empty()) {
    std::string out = "    images:\n";
    for (const FrameDef& frame : clip.frames) out += "      - " + quoted(frame.art.source) + "\n";
    return out;
  }
  if (art.rect.width == 0) return "    animation: " + quoted(art.source) + "\n";
  std::string out = "    sheet: " + quoted(art.source) + "\n    tile: [" + std::to_string(art.rect.width) + ", " +
                    std::to_string(art.rect.height) + "]\n";
  if (art.margin > 0) out += "    margin: " + std::to_string(art.margin) + "\n";
  if (art.spacing > 0) out += "    spacing: " + std::to_string(art.spacing) + "\n";
  return out;
}

}  // namespace

std::string clips_text(const std::vector<ClipDef>& clips) {
  std::string text =
      "# Made by `mobrin import`. Run it again when the art changes: timing written here is kept, marks lie "
      "elsewhere.\n"
      "mobrin: 1\nclips:\n";
  for (const ClipDef& clip : clips) {
    text += "  " + clip.name.text + ":\n";
    if (clip.frames.empty()) {
      text += "    length: " + time_text(clip.length) + "\n";
    } else {
      text += art_text(clip);
      if (const std::string frames = frames_text(clip); !frames.empty()) text += "    frames: [" + frames + "]\n";
      if (clip.fps.num > 0) {
        text += "    fps: " + std::to_string(clip.fps.num) +
                (clip.fps.den == 1 ? "" : "/" + std::to_string(clip.fps.den)) + "\n";
      } else {
        text += "    times: [";
        for (std::size_t i = 0; i < clip.frames.size(); ++i)
          text += (i == 0 ? "" : ", ") + time_text(clip.frames[i].time);
        text += "]\n";
      }
    }
    text += "    play: " + clip.play.text() + "\n";
  }
  return text;
}

std::string tracks_text(const std::vector<ClipMarksDef>& marks) {
  std::string text =
      "# Tracks made by `mobrin import --tracks`, which writes this file anew: other marks lie elsewhere.\n"
      "mobrin: 1\nmarks:\n";
  const auto number = [](double value) {
    char out[32];
    std::snprintf(out, sizeof out, "%.9g", value);  // 32-bit numbers come back as they were
    return std::string(out);
  };
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

}  // namespace mobrin::io
