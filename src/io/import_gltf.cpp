#include "import_gltf.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include "import_names.hpp"
#include "loader.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::io {
namespace {

constexpr double kBriefest = 0.001, kLongest = 36'000;  // of clips, in seconds

double length_of(const GltfAnimation& animation) { return animation.last - animation.first; }

class Taker {
 public:
  Taker(const std::string& shown, const std::string& folder, bool with_tracks)
      : shown_(shown), folder_(folder), with_tracks_(with_tracks) {}

  GltfClips run(const std::vector<GltfAnimation>& animations) {
    any_ = std::any_of(animations.begin(), animations.end(),
                       [](const GltfAnimation& each) { return length_of(each) >= kBriefest; });
    for (std::size_t i = 0; i < animations.size(); ++i)
      take(animations[i], animations[i].name.empty() ? "animation_" + std::to_string(i) : animations[i].name);
    return std::move(out_);
  }

 private:
  void note(const std::string& clip, const std::string& what) { out_.notes.push_back("\"" + clip + "\": " + what); }

  void take(const GltfAnimation& animation, const std::string& own) {
    if (const double length = length_of(animation); length < kBriefest || length > kLongest) {
      const bool brief = length < kBriefest;
      const std::string what = brief ? " lasts less than 1 ms" : " lasts more than 10 hours";
      if (brief && any_)  // as poses do that are exported beside what moves
        out_.notes.push_back("no clip is made of \"" + own + "\" in " + shown_ + ": it" + what);
      else
        out_.findings.push_back(finding_in(shown_, FindingCode::no_length, "the animation \"" + own + "\"" + what,
                                           "A pose needs no clip; else check its keys."));
      return;
    }
    std::string name = clip_name(folder_.empty() ? own : folder_ + "_" + own);
    if (const int count = ++seen_[name]; count > 1) {
      name += "_" + std::to_string(count);
      note(name, "a clip of that name stands before it in " + shown_);
    }
    if (!animation.name.empty() && name != own && folder_.empty()) note(name, "called \"" + own + "\" in " + shown_);
    if (animation.first > 0)
      note(name, "its keys run from " + detail::number_text(animation.first) + " s to " +
                     detail::number_text(animation.last) + " s; the clip begins at the first");
    ArtClip& clip = out_.clips.emplace_back();
    clip.kind = ArtClip::Kind::length;
    clip.timed = true;
    clip.name = Text(name);
    clip.length = Ticks(std::llround(length_of(animation) * static_cast<double>(kTicksPerSecond)));
    clip.play = PlayMode::once();
    if (with_tracks_ && !animation.tracks.empty()) add_tracks(name, animation.tracks);
  }

  void add_tracks(const std::string& clip, const std::vector<TrackDef>& tracks) {
    ClipMarksDef& marks = out_.tracks.emplace_back();
    marks.clip = Text(clip);
    for (TrackDef track : tracks) {
      track.name = Text(clip_name(track.name.text));
      if (std::ranges::count(marks.tracks, track.name.text,
                             [](const TrackDef& of) -> const std::string& { return of.name.text; }) > 0)
        note(clip, "the track \"" + track.name.text + "\" stands there twice; the first counts");
      else
        marks.tracks.push_back(std::move(track));
    }
  }

  const std::string& shown_;
  const std::string& folder_;
  bool with_tracks_ = false, any_ = false;  // any: one of them is no pose
  std::map<std::string, int> seen_;
  GltfClips out_;
};

}  // namespace

GltfClips clips_of_gltf(const std::string& shown, const std::vector<GltfAnimation>& animations,
                        const std::string& folder, bool with_tracks) {
  return Taker(shown, folder, with_tracks).run(animations);
}

}  // namespace mobrin::io
