// The worker: what is written into files, and what is typed and not saved yet.
#include <algorithm>
#include <cstdlib>

#include "mobrin/io/clip_edit.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/marks_edit.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/io/shape_edit.hpp"
#include "worker.hpp"

namespace mobrin::live {
namespace {

constexpr std::size_t kUndo = 200;

}  // namespace

Response Worker::refuse(const Refusal& refusal) {
  Response out;
  out.status = refusal.status;
  out.body = text_of(refusal.json());
  return out;
}

std::optional<Refusal> Worker::may_write(const std::string& path) const {
  const std::string whole = whole_path(path);
  if (whole.starts_with(folder_ + "/")) return std::nullopt;
  return Refusal{403, "outside", name_of(path) + " lies outside " + folder_ + ", where this page may not write"};
}

// Puts `after` in the place of `before`, if that is what stands there.
std::optional<Refusal> Worker::write(const std::string& path, const std::string& before, const std::string& after) {
  if (auto outside = may_write(path)) return outside;
  const std::lock_guard held(writing_);
  const EditLock lock(path, 2);
  if (!lock.held()) return Refusal{409, "locked", "somebody else is editing files beside " + name_of(path)};
  const auto now = read_file(path);
  std::error_code error;
  const bool fresh = before.empty() && !std::filesystem::exists(path, error);
  if (!fresh && (!now || *now != before))
    return Refusal{409, "changed", name_of(path) + " was changed by somebody else; look at it again", "",
                   name_of(path)};
  if (const Outcome written = write_file(path, after); !written)
    return Refusal{500, "unwritable", written.error().text(), "", name_of(path)};
  return std::nullopt;
}

const Loaded* Worker::machine_of(const Json& one, std::string& file) const {
  const auto number = one.find("machine");
  const std::vector<std::string> files = machine_files(*cast_);
  if (number == one.end() || !number->is_number_unsigned() || number->get<std::size_t>() >= files.size())
    return nullptr;
  file = files[number->get<std::size_t>()];
  return cast_->machines.at(file).get();
}

namespace {

// Of a page's shape; empty where it is none.
std::optional<Shape> shape_of(const Json& one) {
  const auto shape = one.find("shape");
  if (shape == one.end() || !shape->is_object() || shape->size() != 1) return std::nullopt;
  const std::string key = shape->begin().key();
  const Json& list = shape->begin().value();
  if (!list.is_array() || !std::all_of(list.begin(), list.end(), [](const Json& each) { return each.is_number(); }))
    return std::nullopt;
  const std::vector<double> n = list.get<std::vector<double>>();
  if (key == "rect" && n.size() == 4) return RectShape{n[0], n[1], n[2], n[3]};
  if (key == "circle" && n.size() == 3) return CircleShape{n[0], n[1], n[2]};
  if (key == "cone" && n.size() == 4) return ConeShape{n[0], n[1], n[2], n[3]};
  return std::nullopt;
}

}  // namespace

// One change by its meaning, made on the text that the page knows: which file it is for, and how its text changes.
std::optional<Refusal> Worker::plan(const Json& one, const Loaded& loaded, const std::string& file,
                                    Planned& out) const {
  const std::string clip = text_in(one, "clip"), kind = text_in(one, "kind");
  if (kind == "reach" || kind == "zone") {
    const auto shape = shape_of(one);
    if (!shape) return Refusal{400, "edit", "a shape is {rect: [..]}, {circle: [..]} or {cone: [x, y, length, angle]}"};
    const ShapeEdit edit{kind == "reach" ? ShapeEdit::Of::reach : ShapeEdit::Of::zone, text_in(one, "name"), *shape};
    out.target = file_of_shape(loaded, file, edit);
    out.change = [edit](const std::string& text) { return edit_shape(text, edit); };
    out.what = kind + " " + edit.name;
    return std::nullopt;
  }
  MarkEdit edit;
  edit.clip = clip;
  edit.place = text_in(one, "place");
  edit.name = text_in(one, "name");
  edit.to = text_in(one, "to");
  const auto index = one.find("index");
  if (index != one.end() && index->is_number_unsigned()) edit.index = index->get<std::size_t>();
  // Where the words of people go into a file, they stay one value.
  for (const std::string* words : {&edit.place, &edit.name, &edit.to})
    if (words->find_first_of("\r\n") != std::string::npos || words->size() > 1000)
      return Refusal{400, "edit", "a mark is one line of at most 1000 letters"};
  out.what = kind + " of " + clip;
  if (kind == "rate" || kind == "play" || kind == "hold") {
    const ClipEdit of_clip{kind == "rate"   ? ClipEdit::Kind::rate
                           : kind == "play" ? ClipEdit::Kind::play
                                            : ClipEdit::Kind::hold,
                           clip, edit.index, edit.to};
    out.target = file_of_clip(loaded, file, clip);
    out.change = [of_clip](const std::string& text) { return edit_clip(text, of_clip); };
    return std::nullopt;
  }
  const auto read = mark_edit_kind(kind);
  if (!read) return Refusal{400, "edit", "there is no edit \"" + kind + "\""};
  edit.kind = *read;
  out.target = file_of_marks(loaded, file, clip);
  out.change = [edit](const std::string& text) { return edit_marks(text, edit); };
  if (edit.kind == MarkEdit::Kind::set_box || edit.kind == MarkEdit::Kind::split_box ||
      edit.kind == MarkEdit::Kind::drop_box)
    out.box = {clip, edit.index};
  return std::nullopt;
}

Response Worker::edit(const Json& one) {
  std::string machine_file;
  const Loaded* loaded = machine_of(one, machine_file);
  if (loaded == nullptr) return refuse({400, "edit", "there is no such machine"});
  if (text_in(one, "kind") == "copy_marks") return copy_to_character(*loaded, machine_file, text_in(one, "clip"));
  Planned planned;
  if (const auto refusal = plan(one, *loaded, machine_file, planned)) return refuse(*refusal);
  const std::string& target = planned.target;
  // What is being typed in is the text that is meant.
  const bool typed = is_plain_file(draft_of(target));
  const auto before = read_file(typed ? draft_of(target) : target);
  if (!before) return refuse({500, "unreadable", before.error().text(), "", name_of(target)});
  // The hash of the text that the page has seen.
  if (const auto hashes = one.find(typed ? "drafts" : "hashes"); hashes != one.end() && hashes->is_object()) {
    const auto known = hashes->find(name_of(target));
    if (known != hashes->end() && known->is_string() && known->get<std::string>() != hash_text(*before))
      return refuse(
          {409, "changed", name_of(target) + " was changed by somebody else; look at it again", "", name_of(target)});
  }
  const auto after = planned.change(*before);
  if (!after) return refuse({400, "edit", after.error().message, after.error().nearest, name_of(target), 0, 0});
  if (typed) return put_in_draft(planned, *before, *after, *loaded, machine_file);
  return try_and_write(target, *before, *after, text_in(one, "what").empty() ? planned.what : text_in(one, "what"));
}

// Why a text would not load; empty where it does.
std::optional<Refusal> Worker::refusal_of_load(const LoadedCast& next, const std::string& target) const {
  if (next.cast != nullptr) return std::nullopt;
  const auto first =
      std::find_if(next.findings.begin(), next.findings.end(), [](const Finding& each) { return is_error(each); });
  if (first == next.findings.end()) return Refusal{400, "edit", "it would not load", "", name_of(target)};
  Refusal out = refusal_of(*first);
  out.file = name_of(first->file);
  return out;
}

// A file that is being typed in takes the edit into what is typed; it counts once that is saved.
Response Worker::put_in_draft(const Planned& planned, const std::string& before, const std::string& after,
                              const Loaded& loaded, const std::string& machine_file) {
  const std::string& target = planned.target;
  const LoadedCast was = load_cast(path_, {target, before});
  if (was.cast != nullptr)
    if (const auto refusal = refusal_of_load(load_cast(path_, {target, after}), target)) return refuse(*refusal);
  if (planned.box) {
    // Is the box that the page shows the one of that number in what is typed, too?
    const auto box_of = [&](const Machine& machine) -> const BoxDef* {
      for (const ClipInfo& clip : machine.clips())
        if (clip.def.name.text == planned.box->first && planned.box->second < clip.marks.boxes.size())
          return &clip.marks.boxes[planned.box->second];
      return nullptr;
    };
    const bool there = was.cast != nullptr && was.cast->machines.contains(machine_file);
    const BoxDef* shown = box_of(*loaded.machine);
    const BoxDef* typed = there ? box_of(*was.cast->machines.at(machine_file)->machine) : nullptr;
    if (shown == nullptr || typed == nullptr || shown->name.text != typed->name.text ||
        shown->role.text != typed->role.text)
      return refuse({409, "draft", "which box is meant is not sure while " + name_of(target) + " is being typed in",
                     "save that or take it back first", name_of(target)});
  }
  if (const Outcome written = write_file(draft_of(target), after); !written)
    return refuse({500, "draft", written.error().text()});
  tell_files();
  Response out;
  out.body = text_of({{"file", name_of(target)}, {"draft", hash_text(after)}, {"text", after}});
  return out;
}

// A character gets the machine's marks of a clip as its own, to change them for itself alone.
Response Worker::copy_to_character(const Loaded& loaded, const std::string& file, const std::string& clip) {
  const std::string source = file_of_marks(loaded, file, clip);
  const auto from = read_file(source), into = read_file(file);
  if (!from || !into) return refuse({500, "unreadable", (from ? into : from).error().text(), "", name_of(file)});
  const auto after = copy_marks(*from, *into, clip);
  if (!after) return refuse({400, "edit", after.error().message, "", name_of(file)});
  return try_and_write(file, *into, *after,
                       "marks of " + clip + " for " + std::string(loaded.machine->name()) + " alone");
}

// What would not load is not written.
Response Worker::try_and_write(const std::string& target, const std::string& before, const std::string& after,
                               const std::string& what) {
  if (is_plain_file(draft_of(target)))
    return refuse(
        {409, "draft", name_of(target) + " is being typed in; save that or take it back first", "", name_of(target)});
  LoadedCast next = load_cast(path_, {target, after});
  if (const auto refusal = refusal_of_load(next, target)) return refuse(*refusal);
  if (const auto refusal = write(target, before, after)) return refuse(*refusal);
  remember({target, before, after, what});
  show(std::move(next));
  Response out;
  out.body = text_of({{"file", name_of(target)}, {"hash", hash_text(after)}});
  return out;
}

void Worker::remember(Change change) {
  done_.push_back(std::move(change));
  if (done_.size() > kUndo) done_.pop_front();
  undone_.clear();
}

Response Worker::undo(bool again) {
  auto& from = again ? undone_ : done_;
  auto& to = again ? done_ : undone_;
  if (from.empty()) return refuse({400, "undo", again ? "nothing was undone" : "nothing was changed here"});
  Change change = from.back();
  if (const auto refusal = write(change.path, change.after, change.before)) return refuse(*refusal);
  from.pop_back();
  Response out;
  out.body = text_of({{"file", name_of(change.path)}, {"what", change.what}});
  std::swap(change.before, change.after);
  to.push_back(std::move(change));
  load();
  return out;
}

// Where what is typed into a file and not saved lies: in the user's state folder, by the file's real path.
std::string Worker::draft_of(const std::string& path) {
  const char* state = std::getenv("XDG_STATE_HOME");
  const char* home = std::getenv("HOME");
  std::string folder = state != nullptr && state[0] == '/' ? std::string(state)
                       : home != nullptr                   ? std::string(home) + "/.local/state"
                                                           : std::string();
  if (folder.empty()) return "";
  folder += "/mobrin/drafts";
  std::error_code error;
  std::filesystem::create_directories(folder, error);
  if (error) return "";
  std::filesystem::permissions(folder, std::filesystem::perms::owner_all, error);
  return folder + "/" + hash_text(whole_path(path)) + ".yaml";
}

Response Worker::keep_draft(const std::string& path, const Json& body) {
  const std::string draft = draft_of(path);
  const Json& words = body.at("draft");
  std::error_code error;
  Response out;
  out.body = "{}";
  const std::string typed = words.is_string() ? words.get<std::string>() : "";
  // What the file holds already, saved while this was on its way, is no draft.
  const auto saved = read_file(path);
  if (draft.empty() || !words.is_string() || (saved && *saved == typed)) {
    std::filesystem::remove(draft, error);
  } else {
    if (const Outcome written = write_file(draft, typed); !written)
      return refuse({500, "draft", written.error().text()});
    out.body = text_of({{"draft", hash_text(typed)}});
  }
  tell_files();
  return out;
}

Response Worker::file(std::size_t number) {
  if (number >= files_.size()) return refuse({404, "file", "there is no such file"});
  const auto text = read_file(files_[number]);
  if (!text) return refuse({500, "unreadable", text.error().text(), "", name_of(files_[number])});
  Response out;
  Json answer = {{"name", name_of(files_[number])}, {"hash", hash_text(*text)}, {"text", *text}};
  if (const std::string draft = draft_of(files_[number]); is_plain_file(draft))
    if (const auto typed = read_file(draft)) answer["draft"] = *typed;
  out.body = text_of(answer);
  return out;
}

Response Worker::save(std::size_t number, const Json& body) {
  if (number >= files_.size()) return refuse({404, "file", "there is no such file"});
  if (body.contains("draft")) return keep_draft(files_[number], body);
  const auto text = body.find("text");
  if (text == body.end() || !text->is_string()) return refuse({400, "file", "a file is saved as `text` and `hash`"});
  const std::string path = files_[number];
  const auto before = read_file(path);
  if (!before) return refuse({500, "unreadable", before.error().text(), "", name_of(path)});
  if (text_in(body, "hash") != hash_text(*before)) {
    Json out = Refusal{409, "changed", name_of(path) + " was changed by somebody else", "", name_of(path)}.json();
    out["now"] = *before;
    out["hash"] = hash_text(*before);
    Response answer;
    answer.status = 409;
    answer.body = text_of(out);
    return answer;
  }
  const std::string after = text->get<std::string>();
  if (const auto refusal = write(path, *before, after)) return refuse(*refusal);
  std::error_code error;
  std::filesystem::remove(draft_of(path), error);
  remember({path, *before, after, "typed into " + name_of(path)});
  load();
  Response out;
  out.body = text_of({{"file", name_of(path)}, {"hash", hash_text(after)}, {"loads", !broken_}});
  return out;
}

// A tape as a new file beside the one that was named.
Response Worker::keep(const Json& one) {
  const std::string name = text_in(one, "name"), text = text_in(one, "text");
  const bool plain = !name.empty() && name.size() <= 60 && std::all_of(name.begin(), name.end(), [](char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' || c == '-';
  });
  if (!plain) return refuse({400, "name", "a tape's name is letters, digits, _ and -"});
  const std::string path = folder_ + "/" + name + ".tape.yaml";
  std::error_code error;
  if (std::filesystem::exists(path, error)) return refuse({409, "there", name + ".tape.yaml is there already"});
  if (const auto refusal = write(path, "", text)) return refuse(*refusal);
  Response out;
  out.body = text_of({{"file", name_of(path)}});
  return out;
}

}  // namespace mobrin::live
