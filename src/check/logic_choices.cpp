// What clips lack that others like them have: of those that an input picks, with what turning from one to another
// skips; and of a character's those whose marks stand in place of the machine's.
#include <algorithm>
#include <cmath>

#include "logic_views.hpp"

namespace mobrin::check {
namespace {

// Whether something is done by a cue of this kind, wherever a sound or a picture is only heard or seen.
bool acts(const std::string& kind) { return kind == "damage" || kind == "impulse" || kind == "spawn"; }

bool tells(const ClipInfo& clip, const std::string& cue) {
  return std::any_of(clip.marks.marks.begin(), clip.marks.marks.end(),
                     [&](const MarkDef& mark) { return mark.cue.text == cue; });
}
bool has_role(const ClipInfo& clip, const std::string& role) {
  return std::any_of(clip.marks.boxes.begin(), clip.marks.boxes.end(),
                     [&](const BoxDef& box) { return box.role.text == role; });
}

// The one clip of which it is not so, where it is so of two others and more; null: there is none, or several.
template <class IsSo>
const ClipInfo* odd_one(const std::vector<const ClipInfo*>& clips, const IsSo& is_so) {
  const ClipInfo* odd = nullptr;
  for (const ClipInfo* clip : clips) {
    if (is_so(*clip)) continue;
    if (odd != nullptr) return nullptr;
    odd = clip;
  }
  return clips.size() > 2 ? odd : nullptr;
}

std::string share(const ClipInfo& clip, const MarkDef& mark) {
  const double part = static_cast<double>(clip.begin_of(mark).count) / static_cast<double>(clip.cycle.count);
  return std::to_string(std::lround(part * 100)) + "%";
}

// Whether one word makes all their names, `sting_up` and `sting_down`: then they are likely of one kind.
bool named_alike(const std::vector<const ClipInfo*>& clips) {
  constexpr std::size_t kLeast = 3;
  const std::string& first = clips.front()->def.name.text;
  std::size_t begin = first.size(), end = first.size();  // so much is the same
  for (const ClipInfo* clip : clips) {
    const std::string& name = clip->def.name.text;
    const auto [left, of] = std::mismatch(first.begin(), first.end(), name.begin(), name.end());
    const auto [right, also] = std::mismatch(first.rbegin(), first.rend(), name.rbegin(), name.rend());
    begin = std::min(begin, static_cast<std::size_t>(left - first.begin()));
    end = std::min(end, static_cast<std::size_t>(right - first.rbegin()));
  }
  return begin >= kLeast || end >= kLeast;
}

// Where a clip of as many frames tells it, else just its name.
std::string entry_for(const ClipInfo& clip, const std::vector<const ClipInfo*>& others, const std::string& cue) {
  for (const ClipInfo* other : others)
    for (const MarkDef& mark : other->marks.marks)
      if (mark.cue.text == cue && other->def.frames.size() == clip.def.frames.size() &&
          (mark.at == MarkAt::frame_begin || mark.at == MarkAt::frame_end))
        return std::to_string(mark.frame) + (mark.at == MarkAt::frame_end ? ".end: " : ": ") + cue;
  return cue;
}

// Whether they lie at one share of their clips, as far as ticks go.
bool lie_alike(const ClipInfo& one, const MarkDef& a, const ClipInfo& other, const MarkDef& b) {
  const auto of = [](const ClipInfo& clip, const MarkDef& mark) {
    return static_cast<double>(clip.begin_of(mark).count) / static_cast<double>(clip.cycle.count);
  };
  constexpr double kTicks = 2;
  return std::abs(of(one, a) - of(other, b)) * static_cast<double>(std::min(one.cycle, other.cycle).count) <= kTicks;
}

}  // namespace

void Logic::replaced_marks() {
  const auto kind_acts = [&](const std::string& cue) {
    return std::any_of(def_.cues.begin(), def_.cues.end(),
                       [&](const CueDef& each) { return each.name.text == cue && acts(each.kind); });
  };
  for (const ClipMarksDef& marks : def_.marks) {
    std::set<std::string> own, roles;
    for (const MarkDef& mark : marks.marks) own.insert(mark.cue.text);
    for (const BoxDef& box : marks.boxes) roles.insert(box.role.text);
    bool does = false, was_hit = false;  // what is left out
    std::string lost;
    for (const std::string& cue : marks.replaced_cues) {
      if (own.count(cue) > 0) continue;
      lost += (lost.empty() ? "\"" : ", \"") + cue + "\"";
      does = does || kind_acts(cue);
    }
    for (const std::string& role : marks.replaced_roles) {
      if (roles.count(role) > 0) continue;
      lost += std::string(lost.empty() ? "" : ", ") + "boxes with the role \"" + role + "\"";
      does = does || role == "hit";
      was_hit = was_hit || role == "hurt";
    }
    const bool does_other = roles.count("hit") > 0 || std::any_of(own.begin(), own.end(), kind_acts);
    if (lost.empty()) continue;
    tell(FindingCode::replaced_marks, marks.clip.place, {},
         "the marks of \"" + marks.clip.text + "\" stand in place of the machine's, whole, and leave out " + lost,
         "Write them here too, or `accept: [replaced-marks " + marks.clip.text + "]` at the top where it is meant.",
         !was_hit && (!does || does_other), marks.clip.text);
  }
}

void Logic::choices() {
  for (const StateView& view : views_) {
    if (!view.def->clip_by || view.def->pose) continue;
    std::vector<const ClipInfo*> clips;
    for (const std::uint16_t clip : info(view.index).clips)
      if (const ClipInfo* each = &machine_.clips()[clip]; std::find(clips.begin(), clips.end(), each) == clips.end())
        clips.push_back(each);
    uneven(view, clips);
    skipped_by_turns(view, clips);
  }
}

void Logic::uneven(const StateView& view, const std::vector<const ClipInfo*>& clips) {
  const auto lacks = [&](const ClipInfo& clip, const std::string& lacking, const std::string& having,
                         const std::string& remedy, bool hint) {
    const Place place = clip.marks.clip.place.line > 0 ? clip.marks.clip.place : clip.def.name.place;
    tell(FindingCode::uneven_clips, place, view.def->accept,
         "\"" + clip.def.name.text + "\" " + lacking + ", and all other clips that \"" + view.def->clip_by->input.text +
             "\" picks in \"" + view.path + "\" " + having,
         remedy + ", or write `accept: [uneven-clips]` in that state where it is meant.", hint || !named_alike(clips),
         clip.def.name.text);
  };
  for (const CueDef& cue : def_.cues) {
    const std::string& name = cue.name.text;
    const ClipInfo* const odd = odd_one(clips, [&](const ClipInfo& clip) { return tells(clip, name); });
    if (odd == nullptr) continue;
    const auto does_other = [&](const CueDef& each) { return acts(each.kind) && tells(*odd, each.name.text); };
    const bool acts_so = std::any_of(def_.cues.begin(), def_.cues.end(), does_other);
    lacks(*odd, "does not tell \"" + name + "\"", "do", "Add `" + entry_for(*odd, clips, name) + "` to its `cues:`",
          !acts(cue.kind) || acts_so || has_role(*odd, "hit"));
  }
  std::set<std::string> roles;
  for (const ClipInfo* clip : clips)
    for (const BoxDef& box : clip->marks.boxes) roles.insert(box.role.text);
  for (const std::string& role : roles)
    if (const ClipInfo* odd = odd_one(clips, [&](const ClipInfo& clip) { return has_role(clip, role); }))
      lacks(*odd, "has no box with the role \"" + role + "\"", "have one", "Add one to its `boxes:`",
            role != "hit" && role != "hurt");
}

void Logic::skipped_by_turns(const StateView& view, const std::vector<const ClipInfo*>& clips) {
  for (const CueDef& cue : def_.cues) {
    if (!acts(cue.kind)) continue;
    const ClipInfo* first = nullptr;
    const MarkDef* before = nullptr;
    for (const ClipInfo* clip : clips) {
      const auto mark = std::find_if(clip->marks.marks.begin(), clip->marks.marks.end(),
                                     [&](const MarkDef& each) { return each.cue.text == cue.name.text; });
      if (mark == clip->marks.marks.end()) continue;
      if (first == nullptr) {
        first = clip, before = &*mark;
        continue;
      }
      if (lie_alike(*first, *before, *clip, *mark)) continue;
      const std::string& input = view.def->clip_by->input.text;
      tell(FindingCode::turn_skips, view.def->clip_by->input.place, view.def->accept,
           "where \"" + input + "\" changes while \"" + view.path + "\" plays, \"" + cue.name.text +
               "\" may be skipped or told twice: it lies at " + share(*first, *before) + " of \"" +
               first->def.name.text + "\" and at " + share(*clip, *mark) + " of \"" + clip->def.name.text +
               "\", and the relative position stays",
           "Put it at the same share of each clip, or keep the game from writing \"" + input + "\" then.", true,
           cue.name.text);
      break;
    }
  }
}

}  // namespace mobrin::check
