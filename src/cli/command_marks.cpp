// mobrin marks: shows and edits what people add to a clip.
#include <fmt/format.h>

#include <filesystem>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "definition_text.hpp"
#include "json.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/marks_edit.hpp"
#include "output.hpp"

namespace mobrin::cli {
namespace {

using Kind = MarkEdit::Kind;

struct MarksOptions {
  std::string file, clip;
  std::vector<std::pair<Kind, std::string>> edits;  // in the order of the command line
  std::vector<std::string> copies;                  // of boxes
  std::string misplaced;                            // a shape without a box
  bool json = false;
};

// `22,38` as `[22, 38]`
std::optional<std::string> pair_text(const std::string& text) {
  double x = 0, y = 0;
  int end = 0;
  const std::size_t comma = text.find(',');
  if (std::sscanf(text.c_str(), "%lf,%lf%n", &x, &y, &end) != 2 || end != static_cast<int>(text.size()))
    return std::nullopt;
  return "[" + text.substr(0, comma) + ", " + text.substr(comma + 1) + "]";
}

// `net:hit=3-4 circle: [1, 2, 3]`, as files say a box; the shape comes with it (see marks_command).
std::optional<std::string> box_text(const std::string& text) {
  const std::size_t equals = text.find('='), colon = text.find(':');
  const std::size_t rect = text.find(" rect: "), shape = rect == std::string::npos ? text.find(" circle: ") : rect;
  const std::string who = text.substr(0, std::min(equals, shape));
  if (colon == std::string::npos || colon == 0 || colon + 1 >= who.size() || shape == std::string::npos)
    return std::nullopt;
  const std::string frames =
      equals == std::string::npos || equals > shape ? "" : text.substr(equals + 1, shape - equals - 1);
  return fmt::format("{{name: {}, role: {}{},{}}}", who.substr(0, colon), who.substr(colon + 1),
                     frames.empty() ? "" : ", frames: " + frames, text.substr(shape));
}

// An argument as an edit; empty with a message told where it is none.
std::optional<MarkEdit> read_edit(Kind kind, const std::string& clip, const std::string& text) {
  MarkEdit edit{kind, clip};
  const std::size_t equals = text.find('=');
  const std::string left = text.substr(0, equals), right = equals == std::string::npos ? "" : text.substr(equals + 1);
  const auto wrong = [&](const std::string& option, const std::string& remedy) {
    usage("`--" + option + " " + text + "` cannot be read", remedy);
    return std::nullopt;
  };
  switch (kind) {
    case Kind::add_cue:
    case Kind::remove_cue:
      if (left.empty() || right.empty())
        return wrong(kind == Kind::add_cue ? "add-cue" : "remove-cue",
                     "Write the place and the cue: `3=step`, `5.end=ready`, `0.22s=creak`.");
      edit.place = left;
      edit.name = right;
      break;
    case Kind::move_cue: {
      const std::size_t colon = left.find(':');
      if (colon == std::string::npos || right.empty() || colon + 1 == left.size())
        return wrong("move-cue", "Write from where, to where, and the cue: `3:4=net_out`.");
      edit.place = left.substr(0, colon);
      edit.to = left.substr(colon + 1);
      edit.name = right;
      break;
    }
    case Kind::set_pivot:
    case Kind::set_offset: {
      const auto pair = pair_text(equals == std::string::npos ? text : right);
      if (!pair || (kind == Kind::set_pivot && equals != std::string::npos))
        return wrong(kind == Kind::set_pivot ? "pivot" : "offset",
                     kind == Kind::set_pivot ? "Write x and y in image pixels from the top left: `22,38`."
                                             : "Write x and y in pixels, or frames before them: `1,0`, `5-7=0,2`.");
      if (equals != std::string::npos) edit.place = left;
      edit.to = *pair;
      break;
    }
    case Kind::set_span:
    case Kind::set_window:
      if (left.empty() || right.empty())
        return wrong(kind == Kind::set_span ? "span" : "window",
                     "Write its name and its frames or times: `trail=2-4`, `trail=0.2s-0.3s`.");
      edit.name = left;
      edit.to = right;
      break;
    case Kind::remove_span:
    case Kind::remove_window:
      edit.name = text;
      break;
    case Kind::add_box: {
      auto box = box_text(text);
      if (!box)
        return wrong("add-box",
                     "Write its name and role, its frames, and a shape: `--add-box net:hit=3-4 --rect 8,8,17,10`.");
      edit.to = std::move(*box);
      break;
    }
    case Kind::remove_box:
      if (left.empty()) return wrong("remove-box", "Write the box, or the box and its frames: `net`, `net=3-4`.");
      edit.name = left;
      edit.place = right;
      break;
    case Kind::set_box:  // by index: of the live page
    case Kind::split_box:
    case Kind::drop_box:
    case Kind::set_fields:
      break;
    case Kind::set_airborne:
      if (text != "true" && text != "false") return wrong("airborne", "Write `true` or `false`.");
      edit.to = text;
      break;
  }
  return edit;
}

// A file of marks alone is held against the machine beside it, `keeper.yaml` for `keeper.marks.yaml`.
std::string machine_beside(const std::string& file) {
  std::string path = file;
  const std::size_t at = path.rfind(".marks.");
  if (at == std::string::npos) return "";
  path.erase(at, 6);
  std::error_code error;
  return std::filesystem::exists(path, error) ? path : "";
}

void show(const ClipInfo& clip) {
  fmt::print("{}\n", styled(Style::strong, clip.def.name.text));
  const std::vector<MarkLine> lines = mark_lines(clip);
  std::size_t width = 8;
  for (const MarkLine& line : lines) width = std::max(width, line.place.size());
  for (const MarkLine& line : lines)
    fmt::print("  {:{}}  {}\n", line.place.empty() ? (line.seconds < 0 ? "always" : "") : line.place, width,
               line.cue.empty() ? line.text : line.cue);
  if (lines.empty()) fmt::print("  no marks\n");
}

int show_all(const std::string& file, const std::string& only, bool json) {
  const auto loaded = load_or_report(file);
  if (!loaded) return kFindings;
  std::vector<std::string> names;
  Json clips = Json::array();
  for (const ClipInfo& clip : loaded->machine->clips()) {
    names.push_back(clip.def.name.text);
    if (!only.empty() && only != names.back()) continue;
    if (json)
      clips.push_back(clip_json(*loaded->machine, clip));
    else
      show(clip);
  }
  if (json && (only.empty() || !clips.empty())) {
    fmt::print("{}\n", print_json({{"clips", clips}}, 1));
  } else if (names.empty()) {
    fmt::print("{} has no clips of its own; name the machine that uses it.\n", file);
  } else if (!only.empty() && std::find(names.begin(), names.end(), only) == names.end()) {
    fmt::print(stderr, "error: {}\n", no_such("clip", only, names).text());
    return kFindings;
  }
  return kFine;
}

std::string list_text(const std::vector<std::string>& words) { return fmt::format("[{}]", fmt::join(words, ", ")); }

// A box as a file writes it in a line.
std::string box_text(const BoxDef& box, const std::string& frames) {
  std::string out = fmt::format("{{name: {}, role: {}", box.name.text, box.role.text);
  if (!frames.empty()) out += ", frames: " + frames;
  if (const auto* rect = std::get_if<RectShape>(&box.shape))
    out += fmt::format(", rect: [{:g}, {:g}, {:g}, {:g}]", rect->left, rect->bottom, rect->width, rect->height);
  else if (const auto* circle = std::get_if<CircleShape>(&box.shape))
    out += fmt::format(", circle: [{:g}, {:g}, {:g}]", circle->x, circle->y, circle->radius);
  if (!box.hits.empty()) out += ", hits: " + list_text(box.hits);
  if (!box.spares.empty()) out += ", spares: " + list_text(box.spares);
  if (box.every.count > 0) out += fmt::format(", every: {:g}s", box.every.to_seconds());
  return out + "}";
}

// `net=5-6`: the box once more, for other frames; `net=leap`: all boxes of that name to another clip. False with a
// message told where that cannot be.
bool copy_boxes(const Loaded& loaded, const std::string& clip, const std::string& text, std::vector<MarkEdit>& edits) {
  const std::size_t equals = text.find('=');
  const std::string name = text.substr(0, equals), to = equals == std::string::npos ? "" : text.substr(equals + 1);
  if (to.empty())
    return usage("`--copy-box " + text + "` cannot be read",
                 "Write the box and the frames or the clip: `net=5-6`, `body=leap`."),
           false;
  std::vector<std::string> known;
  const ClipInfo* source = nullptr;
  for (const ClipInfo& each : loaded.machine->clips()) {
    known.push_back(each.def.name.text);
    if (known.back() == clip) source = &each;
  }
  if (source == nullptr)
    return usage(no_such("clip", clip, known).text(), "Name the machine that uses the marks."), false;
  known.clear();
  const bool frames = to.find_first_not_of("0123456789-, ") == std::string::npos;
  bool any = false;
  for (const BoxDef& box : source->marks.boxes) {
    known.push_back(box.name.text);
    if (box.name.text != name || (frames && any)) continue;
    any = true;
    std::vector<std::string> stretches;
    for (const StretchDef& each : box.stretches) stretches.push_back(stretch_text(each));
    const std::string same = stretches.size() == 1 ? stretches[0] : stretches.empty() ? "" : list_text(stretches);
    edits.push_back({Kind::add_box, frames ? clip : to, "", "",
                     box_text(box, frames ? (to.find(',') == std::string::npos ? to : "[" + to + "]") : same)});
  }
  if (any) return true;
  fmt::print(stderr, "error: {}\n",
             Error{"\"" + clip + "\" has no box \"" + name + "\"", nearest_name(name, known)}.text());
  return false;
}

int marks(const MarksOptions& options) {
  if (options.edits.empty() && options.copies.empty()) return show_all(options.file, options.clip, options.json);
  if (options.json) return usage("`--json` shows marks and edits none", "Edit first, then show.");
  if (!options.misplaced.empty())
    return usage(
        "`" + options.misplaced + "` belongs to no box",
        "Write it after its box: `--add-box net:hit=3-4 --rect 8,8,17,10`, `--add-box head:hurt --circle 0,25,5`.");
  if (options.clip.empty()) return usage("no clip is named", "Say whose marks to edit: `--clip walk`.");
  if (!can_write("FILE", options.file, {".yaml", ".yml", ".json"})) return kFindings;
  // From reading to writing nobody else edits here, or one of both edits would be lost.
  const EditLock lock(options.file);
  if (!lock.held())
    return usage("somebody else is editing files beside " + options.file, "Wait until that is done, and run it again.");
  std::vector<MarkEdit> edits;
  for (const auto& [kind, text] : options.edits) {
    auto edit = read_edit(kind, options.clip, text);
    if (!edit) return kUsage;
    edits.push_back(std::move(*edit));
  }
  std::error_code error;
  const bool fresh = !std::filesystem::exists(std::filesystem::symlink_status(options.file, error));
  if (!fresh && !is_plain_file(options.file))
    return usage("\"" + options.file + "\" is no file", "Name a file of marks, a machine or a character.");
  Loaded before = fresh ? Loaded{} : load_character(options.file);
  std::string machine = options.file, target = options.file;
  if (before.machine && before.has_machine)
    target = file_of_marks(before, options.file, options.clip);
  else
    machine = machine_beside(options.file);
  if (before.has_machine && has_errors(before.findings) && !fresh) {
    print_findings(before.findings, true);
    fmt::print(stderr, "{} has errors; mend them first. Nothing was written.\n", options.file);
    return kFindings;
  }
  if (!options.copies.empty() && !before.machine)
    return usage("boxes are copied from marks that are there", "Name the machine that has them.");
  for (const std::string& copy : options.copies)
    if (!copy_boxes(before, options.clip, copy, edits)) return kFindings;
  std::string text;
  if (!fresh) {
    auto read = read_file(target);
    if (!read) {
      fmt::print(stderr, "error: {}\n", read.error().text());
      return kFindings;
    }
    text = std::move(*read);
  }
  for (const MarkEdit& edit : edits) {
    auto edited = edit_marks(text, edit);
    if (!edited) {
      fmt::print(stderr, "error: {}: {}\n    Nothing was written. What is there: mobrin marks {} --clip {}\n", target,
                 edited.error().text(), as_argument(options.file), as_argument(options.clip));
      return kFindings;
    }
    text = std::move(*edited);
    // All of that name.
    if (edit.kind == Kind::remove_box && edit.place.empty())
      while ((edited = edit_marks(text, edit))) text = std::move(*edited);
  }
  const Loaded after = load_character(machine.empty() ? target : machine, {target, text});
  if (has_errors(after.findings)) {
    print_findings(after.findings, true);
    fmt::print(stderr, "{}; {} was not written.\n", counts(after.findings), target);
    return kFindings;
  }
  if (!write_or_report(target, text)) return kFindings;
  for (const ClipInfo& clip : after.machine->clips())
    if (clip.def.name.text == options.clip) show(clip);
  fmt::print("{}  {}\n", target,
             machine.empty() ? "written; no machine beside it, so names and frames were not checked"
                             : "written and checked with " + machine);
  return kFine;
}

const Command marks_command(
    Command::Rank::art, "marks", "Show or edit a clip's marks: cues, spans, windows, pivot, offsets",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<MarksOptions>();
      parameters.place("FILE", options->file, "The machine, or a file of marks (a new one is made)");
      parameters.option("--clip", options->clip, "Whose marks; to show, all clips without it");
      const auto add = [&](const char* name, Kind kind, const char* text) {
        parameters.each(
            name, [options, kind](const std::string& value) { options->edits.emplace_back(kind, value); }, text);
      };
      parameters.flag("--json", options->json, "Show the marks as JSON, each clip with its frames");
      add("--add-cue", Kind::add_cue, "A cue at a frame, a frame's end or a time: 3=step, 5.end=ready, 0.22s=creak");
      add("--remove-cue", Kind::remove_cue, "Take it away: 3=step");
      add("--move-cue", Kind::move_cue, "From one place to another, with its fields: 3:4=net_out");
      add("--span", Kind::set_span, "A cue that lasts: trail=2-4, or in times trail=0.2s-0.3s");
      add("--remove-span", Kind::remove_span, "Take it away: trail");
      add("--window", Kind::set_window, "A stretch for `during:`: again=4-5, or in times again=0.2s-0.3s");
      add("--remove-window", Kind::remove_window, "Take it away: again");
      add("--pivot", Kind::set_pivot, "Where the feet stand, in image pixels from the top left: 22,38");
      add("--offset", Kind::set_offset, "Move the clip's art in pixels, x forward, y up: 1,0; or some frames: 5-7=0,2");
      add("--add-box", Kind::add_box,
          "A box by name and role, and its frames, with the shape after it: net:hit=3-4 --rect 8,8,17,10");
      // A shape belongs to the box before it.
      for (const auto& [name, count] : {std::pair("rect", 4), std::pair("circle", 3)})
        parameters.each(
            (std::string("--") + name).c_str(),
            [options, name = std::string(name), count = count](const std::string& value) {
              std::string numbers = value;
              for (std::size_t i = 0; i < numbers.size(); ++i)
                if (numbers[i] == ',') numbers.insert(++i, " ");
              const bool counted = std::count(value.begin(), value.end(), ',') == count - 1;
              const bool follows = !options->edits.empty() && options->edits.back().first == Kind::add_box &&
                                   options->edits.back().second.find(": [") == std::string::npos;
              if (counted && follows)
                options->edits.back().second += " " + name + ": [" + numbers + "]";
              else
                options->misplaced = "--" + name + " " + value;
            },
            name[0] == 'r' ? "The shape of the box before it: left, bottom, width, height in pixels from the pivot"
                           : "The shape of the box before it: x, y, radius in pixels from the pivot");
      add("--remove-box", Kind::remove_box, "Take all boxes of a name away, or the one of some frames: net, net=3-4");
      add("--airborne", Kind::set_airborne, "true: its feet leave the ground, so check compares no ground line");
      parameters.options("--copy-box", options->copies,
                         "A box once more, for other frames or for another clip: net=5-6, body=leap");
      parameters.footer(
          "Example:\n  mobrin marks keeper.yaml --clip net\n  mobrin marks keeper.yaml --clip net --move-cue "
          "3:4=net_out "
          "--add-cue 5.end=ready\n\nThe rest of the file stays as it is, comments too. What would not load is not "
          "written.");
      return [options] { return marks(*options); };
    });

}  // namespace

}  // namespace mobrin::cli
