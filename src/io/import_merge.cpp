#include "import_merge.hpp"

#include <algorithm>
#include <map>
#include <set>

#include "import_files.hpp"
#include "loader.hpp"
#include "machine/limits.hpp"
#include "marks_follow.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/load.hpp"

namespace mobrin::io {
namespace {

namespace fs = std::filesystem;

class Merger {
 public:
  Merger(const ImportOptions& options, FoundArt art, Imported& out)
      : options_(options),
        folder_(fs::path(options.out).parent_path()),
        before_(std::move(art.before)),
        known_(std::move(art.known)),
        found_(std::move(art.found)),
        roots_(std::move(art.roots)),
        out_(out) {}

  void run() {
    std::sort(found_.begin(), found_.end(),
              [](const ArtClip& a, const ArtClip& b) { return a.name.text < b.name.text; });
    for (const ImportOptions::OfClip& each : options_.clips)
      if (!found_named(each.clip)) {
        std::vector<std::string> names;
        for (const ArtClip& clip : found_) names.push_back(clip.name.text);
        const std::string near = nearest_name(each.clip, names);
        return report(FindingCode::unknown_name, options_.sources.front(), "there is no clip \"" + each.clip + "\"",
                      near.empty() ? "Name one that these sources make." : "Did you mean \"" + near + "\"?");
      }
    ClipsFile file(before_);
    std::vector<FramesChange> changes;
    std::vector<ArtClip> fresh_ones;
    std::vector<std::pair<ArtClip, ArtClip>> changed;
    for (const ArtClip& found : found_) {
      if (found.frames.size() > detail::kMaxFrames) {
        report(FindingCode::too_large, options_.sources.front(),
               "\"" + found.name.text + "\" has " + std::to_string(found.frames.size()) + " frames",
               "At most " + std::to_string(detail::kMaxFrames) +
                   " are supported: take rows of it, `--row 0:walk`, or the first of its cells, `--count 64`.");
        continue;
      }
      const ArtClip* known = known_named(found.name.text);
      if (known != nullptr && stranger(*known, found)) {
        report(FindingCode::duplicate_name, options_.out,
               "there is a clip \"" + found.name.text + "\" of another source in this file",
               "Rename one of them, or import into another file.");
        continue;
      }
      const ArtClip* old = known != nullptr ? nullptr : renamed_from(found);
      if (known == nullptr && old == nullptr) {
        ArtClip fresh = found;
        by_options(fresh);
        out_.clips.push_back(fresh.definition());
        fresh_ones.push_back(std::move(fresh));
        continue;
      }
      FramesChange& change = changes.emplace_back();
      ArtClip before = old != nullptr ? *old : *known;
      taken_.insert(before.name.text);
      if (before.kind != found.kind || before.packed != found.packed) {  // images that were a sheet, and the like
        ArtClip fresh = found;
        fresh.play = before.play;
        if (!found.timed && before.fps.num > 0) fresh.fps = before.fps;
        by_options(fresh);
        note(found.name.text, "comes from another kind of art now; its rate and play mode stay");
        if (before.frames.size() != fresh.frames.size() || has_holds(before) || before.fps.num == 0)
          out_.losses.push_back(options_.out + ": the frames of \"" + found.name.text +
                                "\" are lost: it comes from another kind of art now");
        file.remove(before.name.text);
        out_.clips.push_back(fresh.definition());
        fresh_ones.push_back(std::move(fresh));
        changes.pop_back();
        continue;
      }
      ArtClip after = merge(before, found, change);
      if (options_.fps && !found.timed && before.fps.num == 0)
        out_.losses.push_back(options_.out + ": the times of \"" + found.name.text + "\" are lost to `--fps`");
      by_options(after);
      if (old != nullptr) {
        change.renamed = found.name.text;
        out_.moves.push_back(
            options_.out + ": \"" + found.name.text + "\" has the pictures that \"" + before.name.text +
            "\" had, and keeps its timing and its marks; name it so where a machine says `clip: " + before.name.text +
            "`");
      }
      out_.clips.push_back(after.definition());
      changed.emplace_back(std::move(before), std::move(after));
    }
    file.change(changed);
    file.add(fresh_ones);
    for (const ArtClip& known : known_)
      if (ours(known) && !found_named(known.name.text) && taken_.count(known.name.text) == 0) {
        out_.losses.push_back(options_.out + ": the clip \"" + known.name.text + "\" is lost: its art is gone");
        file.remove(known.name.text);
      }
    std::sort(out_.clips.begin(), out_.clips.end(),
              [](const ClipDef& a, const ClipDef& b) { return a.name.text < b.name.text; });
    out_.text = file.text();
    follow(changes);
  }

 private:
  void report(FindingCode code, const std::string& file, std::string message, std::string remedy) {
    out_.findings.push_back(finding_in(file, code, std::move(message), std::move(remedy)));
  }
  void note(const std::string& clip, const std::string& what) { out_.notes.push_back("\"" + clip + "\": " + what); }

  [[nodiscard]] fs::path here(const std::string& name) const {
    return whole_path((fs::path(name).is_absolute() ? fs::path(name) : folder_ / name).string());
  }
  // Whether a clip of the file comes from what is imported now.
  [[nodiscard]] bool ours(const ArtClip& clip) const {
    const auto below = [&](const std::string& name) {
      const fs::path path = here(name);
      return std::any_of(roots_.begin(), roots_.end(), [&](const fs::path& root) {
        return std::mismatch(root.begin(), root.end(), path.begin(), path.end()).first == root.end();
      });
    };
    if (clip.kind == ArtClip::Kind::images)
      return std::any_of(clip.pictures.begin(), clip.pictures.end(),
                         [&](const ArtPicture& p) { return below(p.name); });
    return !clip.source.empty() && below(clip.source);
  }
  // Of another source: a clip of that name there would be written over.
  [[nodiscard]] bool stranger(const ArtClip& known, const ArtClip& found) const {
    if (ours(known)) return false;
    if (known.kind == ArtClip::Kind::other) return true;
    if (known.kind == ArtClip::Kind::length) return found.kind != ArtClip::Kind::length;
    for (const ArtPicture& p : known.pictures)
      for (const ArtPicture& now : found.pictures)
        if (!p.print.empty() && p.print == now.print) return false;  // its folder has another name now
    std::error_code error;
    const std::string& first = known.kind == ArtClip::Kind::images ? known.pictures.front().name : known.source;
    return known.kind != found.kind || fs::exists(here(first), error);
  }

  // A clip of the file whose every picture a new one has, in a run in which its own is not found.
  [[nodiscard]] const ArtClip* renamed_from(const ArtClip& found) const {
    if (options_.as_new || found.kind == ArtClip::Kind::length) return nullptr;
    for (const ArtClip& known : known_) {
      if (!ours(known) || known.kind != found.kind || known.pictures.empty() || found_named(known.name.text)) continue;
      const auto matched = match_pictures(known.pictures, found.pictures);
      bool all = true;
      for (std::size_t i = 0; i < matched.size(); ++i)
        all = all && matched[i] >= 0 && !known.pictures[i].print.empty() &&
              known.pictures[i].print == found.pictures[static_cast<std::size_t>(matched[i])].print;
      if (all && !taken_.count(known.name.text)) return &known;
    }
    return nullptr;
  }
  [[nodiscard]] bool found_named(const std::string& name) const {
    return std::any_of(found_.begin(), found_.end(), [&](const ArtClip& each) { return each.name.text == name; });
  }
  [[nodiscard]] const ArtClip* known_named(const std::string& name) const {
    for (const ArtClip& each : known_)
      if (each.name.text == name) return &each;
    return nullptr;
  }

  [[nodiscard]] static bool has_holds(const ArtClip& clip) {
    return std::any_of(clip.frames.begin(), clip.frames.end(), [](const PictureFrame& f) { return f.hold != 1; });
  }

  // A clip of the file with its art as it is now.
  ArtClip merge(const ArtClip& known, const ArtClip& found, FramesChange& change) {
    ArtClip out = found;
    out.play = known.play;
    if (found.kind == ArtClip::Kind::length) return out;
    change.clip = known.name.text;
    const auto matched = match_pictures(known.pictures, found.pictures);
    std::vector<ArtPicture> now = found.pictures;
    std::vector<std::int32_t> shown = matched;
    if (!known.knows_all) {
      // The file does not say which cells were left out: none is new.
      std::vector<ArtPicture> only;
      for (std::size_t i = 0; i < shown.size(); ++i) {
        if (matched[i] < 0) continue;
        shown[i] = static_cast<std::int32_t>(only.size());
        only.push_back(found.pictures[static_cast<std::size_t>(matched[i])]);
      }
      if (only.size() < now.size())
        note(known.name.text, "shows " + std::to_string(only.size()) + " of " + std::to_string(now.size()) +
                                  " cells, as its `frames:` say");
      now = std::move(only);
    }
    Ticks typical = milliseconds(100);
    if (!known.frames.empty()) typical = known.frames.back().time;
    MergedFrames merged = merge_frames(known.frames, known.pictures.size(), shown, now.size(), typical);
    if (!known.knows_all) {  // back to the numbers of all cells
      std::map<std::int64_t, std::int32_t> index;
      for (std::size_t j = 0; j < found.pictures.size(); ++j)
        index[found.pictures[j].cell] = static_cast<std::int32_t>(j);
      for (PictureFrame& frame : merged.frames)
        frame.picture = index[now[static_cast<std::size_t>(frame.picture)].cell];
    }
    out.frames = std::move(merged.frames);
    out.fps = known.fps;
    change.from = std::move(merged.from);
    change.to = std::move(merged.to);
    for (const PictureFrame& frame : known.frames)
      change.gone.push_back(
          fs::path(known.pictures[static_cast<std::size_t>(frame.picture)].name).filename().generic_string());
    for (std::size_t f = 0; f < change.to.size(); ++f)
      if (change.to[f] < 0 && known.frames[f].hold != 1)
        out_.losses.push_back(options_.out + ": the hold of " + std::to_string(known.frames[f].hold) + " on " +
                              change.gone[f] + " of \"" + known.name.text + "\" is lost: its picture is gone");
    const bool art_times = found.timed && delays_changed(known, found, matched);
    if (art_times) {
      // The art's timing is another than when it was imported last.
      if (found.frames.size() == out.frames.size()) {
        for (std::size_t f = 0; f < out.frames.size(); ++f) {
          const PictureFrame& own = found.frames[static_cast<std::size_t>(out.frames[f].picture)];
          out.frames[f].hold = own.hold;
          out.frames[f].time = own.time;
        }
        out.fps = found.fps;
        note(known.name.text, "its art has other delays than before, which count now");
      } else {
        note(known.name.text,
             "its art has other delays than before, and the file shows other frames: its timing stays");
      }
    } else if (out.fps.num == 0) {
      // A new picture shows as long as the one before it.
      for (std::size_t f = 0; f < out.frames.size(); ++f)
        if (change.from[f] < 0 && f > 0) out.frames[f].time = out.frames[f - 1].time;
    }
    std::size_t fresh = 0;
    for (const std::int32_t from : change.from) fresh += from < 0 ? 1 : 0;
    const auto lost = static_cast<std::size_t>(std::count(change.to.begin(), change.to.end(), -1));
    if (fresh + lost > 0)
      note(known.name.text,
           (fresh == 0 ? "" : std::to_string(fresh) + (fresh == 1 ? " picture is new" : " pictures are new")) +
               (fresh > 0 && lost > 0 ? ", " : "") +
               (lost == 0 ? "" : std::to_string(lost) + (lost == 1 ? " frame is gone" : " frames are gone")));
    return out;
  }

  [[nodiscard]] static bool delays_changed(const ArtClip& known, const ArtClip& found,
                                           const std::vector<std::int32_t>& matched) {
    for (std::size_t i = 0; i < matched.size(); ++i)
      if (matched[i] >= 0 && !known.pictures[i].delay.empty() &&
          known.pictures[i].delay != found.pictures[static_cast<std::size_t>(matched[i])].delay)
        return true;
    return false;
  }

  // What the options say of a clip.
  void by_options(ArtClip& clip) const {
    // What some art says itself stays beside art that does not.
    const bool general =
        !clip.timed || std::all_of(found_.begin(), found_.end(), [](const ArtClip& each) { return each.timed; });
    if (options_.play && general) clip.play = *options_.play;
    if (options_.fps && general && clip.kind != ArtClip::Kind::length) rate(clip, *options_.fps);
    for (const ImportOptions::OfClip& each : options_.clips) {
      if (each.clip != clip.name.text) continue;
      if (each.play) clip.play = *each.play;
      if (each.fps && clip.kind != ArtClip::Kind::length) rate(clip, *each.fps);
    }
  }
  // Holds that an author wrote stay; those that stand for an image's delays go with them.
  static void rate(ArtClip& clip, Fraction fps) {
    clip.fps = fps;
    for (PictureFrame& frame : clip.frames) {
      frame.time = {};
      if (clip.timed) frame.hold = 1;
    }
  }

  // Marks go with their pictures, in all files that stand on these clips. What could not be loaded is not written.
  void follow(std::vector<FramesChange>& changes) {
    if (has_errors(out_.findings)) return;
    const Loaded now = load_whatever_is_packed(options_.out, {options_.out, out_.text});
    if (!now.machine) {
      for (const Finding& finding : now.findings) out_.findings.push_back(finding);
      if (!has_errors(out_.findings))
        report(FindingCode::unreadable_file, options_.out, "the new clips file would not load", "Mend it by hand.");
      return;
    }
    if (before_.empty()) return;
    const Loaded then = load_whatever_is_packed(options_.out);
    if (!then.machine)
      return report(FindingCode::unreadable_file, options_.out, "the clips file has changed meanwhile",
                    "Import again.");
    const auto borders = [](const Machine& machine, const std::string& clip) {
      for (const ClipInfo& info : machine.clips())
        if (info.def.name.text == clip) return info.borders;
      return std::vector<Ticks>();
    };
    for (FramesChange& change : changes) {
      change.before = borders(*then.machine, change.clip);
      change.now = borders(*now.machine, change.renamed.empty() ? change.clip : change.renamed);
    }
    std::erase_if(changes, [](const FramesChange& change) { return !change.changes(); });
    if (changes.empty()) return;
    for (const FileOfMarks& each : files_of_marks(options_.out, options_.beside)) {
      const bool own = each.path == options_.out;
      std::string text = own ? out_.text : each.text;
      std::vector<const FramesChange*> shared, alone;
      for (const FramesChange& change : changes)
        (each.shared.count(change.clip) > 0 ? shared : alone).push_back(&change);
      std::string would = text;
      const std::vector<FollowedMarks> stays = follow_marks(each.path, would, shared);
      for (std::size_t i = 0; i < stays.size(); ++i)
        if (!stays[i].moves.empty() || !stays[i].losses.empty())
          out_.losses.push_back(each.path + ": the marks of \"" + shared[i]->clip +
                                "\" stay where they are, for they stand on a clip of another file too: " +
                                each.shared.at(shared[i]->clip));
      for (FollowedMarks& followed : follow_marks(each.path, text, alone)) {
        for (std::string& move : followed.moves) out_.moves.push_back(std::move(move));
        for (std::string& loss : followed.losses) out_.losses.push_back(std::move(loss));
      }
      if (own)
        out_.text = std::move(text);
      else if (text != each.text)
        out_.others.emplace_back(each.path, std::move(text));
    }
  }

  const ImportOptions& options_;
  fs::path folder_;
  std::string before_;
  std::vector<ArtClip> known_, found_;
  std::set<std::string> taken_;  // clips of the file that a new one has become
  std::vector<fs::path> roots_;
  Imported& out_;
};

}  // namespace

void merge_into_file(const ImportOptions& options, FoundArt art, Imported& out) {
  Merger(options, std::move(art), out).run();
}

}  // namespace mobrin::io
