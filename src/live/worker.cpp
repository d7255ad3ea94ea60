// The worker: what files say, and what is written into them.
#include "worker.hpp"

#include <algorithm>
#include <cstdlib>
#include <set>

#include "mobrin/draw/graph.hpp"
#include "mobrin/io/clip_edit.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/marks_edit.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/prove/art_files.hpp"

namespace mobrin::live {
namespace {

constexpr std::size_t kUndo = 200, kGraphs = 64;
constexpr std::size_t kSounds = std::size_t{8} << 20;

std::string folder_of_path(const std::string& path) {
  std::error_code error;
  const auto whole = std::filesystem::weakly_canonical(path, error);
  return whole.parent_path().string();
}

std::string text_in(const Json& from, const char* key) {
  const auto found = from.find(key);
  return found != from.end() && found->is_string() ? found->get<std::string>() : std::string();
}

}  // namespace

// --- the shelf ------------------------------------------------------------------------------------------------------

void Shelf::add(Tables& tables) {
  const std::lock_guard held(lock_);
  Json pictures = Json::array(), sounds = Json::array();
  for (const auto& sheet : tables.sheets) {
    const auto [known, fresh] = known_.try_emplace(hash_text(*sheet), pictures_.size());
    if (fresh) pictures_.push_back(sheet);
    pictures.push_back(known->second);
  }
  for (const std::string& path : tables.sounds) {
    const auto known = std::find(sounds_.begin(), sounds_.end(), path);
    sounds.push_back(known - sounds_.begin());
    if (known == sounds_.end()) sounds_.push_back(path);
  }
  // Written in front: the rest is long.
  tables.json = "{\"sheets\":" + text_of(pictures) + ",\"sounds\":" + text_of(sounds) + "," + tables.json.substr(1);
}

std::shared_ptr<const std::string> Shelf::picture(std::size_t number) const {
  const std::lock_guard held(lock_);
  return number < pictures_.size() ? pictures_[number] : nullptr;
}

std::string Shelf::sound(std::size_t number) const {
  const std::lock_guard held(lock_);
  return number < sounds_.size() ? sounds_[number] : std::string();
}

// --- loading --------------------------------------------------------------------------------------------------------

Worker::Worker(LoadedCast loaded, std::string path, Shelf& shelf, Publish publish, Take take)
    : path_(std::move(path)),
      folder_(path_.empty() ? "/nowhere/" : folder_of_path(path_)),
      shelf_(shelf),
      publish_(std::move(publish)),
      take_(std::move(take)) {
  this->take(std::move(loaded));
}

std::string Worker::name_of(const std::string& path) const {
  std::error_code error;
  const auto whole = std::filesystem::weakly_canonical(path, error);
  const auto relative = whole.lexically_relative(folder_);
  return relative.empty() ? path : relative.generic_string();
}

Worker::Seen Worker::seen(const std::string& path) {
  std::error_code error;
  Seen out;
  out.changed = std::filesystem::last_write_time(path, error);
  out.size = std::filesystem::file_size(path, error);
  return out;
}

void Worker::take(LoadedCast loaded) {
  findings_ = std::move(loaded.findings);
  broken_ = loaded.cast == nullptr;
  if (!broken_ || files_.empty()) {
    files_ = std::move(loaded.files);
  } else {
    // What could not be read may be in a file that is named only now.
    for (std::string& each : loaded.files)
      if (std::find(files_.begin(), files_.end(), each) == files_.end()) files_.push_back(std::move(each));
  }
  if (loaded.cast != nullptr) {
    cast_ = std::move(loaded.cast);
    Tables tables = tables_of(*cast_, files_);
    shelf_.add(tables);
    tables_ = std::make_shared<const std::string>(std::move(tables.json));
    graphs_.clear();
    proved_.clear();
    unchecked_ = true;
  }
  seen_.clear();
  hashes_.clear();
  for (const std::string& file : files_) {
    seen_[file] = seen(file);
    const auto text = read_file(file);
    hashes_[file] = text ? hash_text(*text) : "";
  }
  if (cast_ != nullptr)
    for (const auto& [file, machine] : cast_->machines) {
      const std::string folder = file.substr(0, file.rfind('/') + 1);
      for (const ClipInfo& clip : machine->machine->clips())
        for (const FrameDef& frame : clip.def.frames)
          if (!frame.art.source.empty()) seen_.try_emplace(folder + frame.art.source, Seen{});
      for (const LookDef& look : machine->machine->looks())
        for (const auto& [from, to] : look.art) seen_.try_emplace(folder + to, Seen{});
    }
  for (auto& [file, when] : seen_) when = seen(file);
}

void Worker::load() {
  if (!path_.empty()) show(load_cast(path_));
}

void Worker::show(LoadedCast loaded) {
  take(std::move(loaded));
  if (!broken_) take_(cast_, tables_);
  tell_files();
  tell_findings();
}

void Worker::look_around() {
  bool changed = false;
  for (auto& [file, when] : seen_) {
    const Seen now = seen(file);
    if (now == when) continue;
    when = now;
    // One that was written anew with the same words is the same.
    const auto known = hashes_.find(file);
    const auto text = known == hashes_.end() ? Result<std::string>(Error{"", ""}) : read_file(file);
    changed = changed || !text || hash_text(*text) != known->second;
  }
  if (changed) return load();
  if (unchecked_) check();
}

// Logic takes its time, so it comes after what people wait for.
void Worker::check() {
  unchecked_ = false;
  tell_files();
  tell_findings();
  proved_.clear();
  ProofLimits limits;
  limits.steps = 100'000;
  limits.moments = 4'000;
  limits.moves = 24'000;
  for (const auto& [file, loaded] : cast_->machines) {
    if (!loaded->definition) continue;
    for (Finding& each : art_file_findings(*loaded, file)) proved_.push_back({std::move(each), {}});
    for (ProvedFinding& each : logic_and_runs(*loaded->definition, *loaded->machine, limits).findings)
      proved_.push_back(std::move(each));
  }
  std::set<std::string> told;
  std::erase_if(proved_, [&](const ProvedFinding& each) { return !told.insert(each.finding.text()).second; });
  tell_findings();
}

void Worker::tell_files() {
  Json list = Json::array();
  for (const std::string& file : files_)
    list.push_back({{"name", name_of(file)}, {"hash", hashes_[file]}, {"write", !may_write(file).has_value()}});
  const Json out = {{"files", std::move(list)},
                    {"undo", done_.empty() ? Json() : Json(done_.back().what)},
                    {"redo", undone_.empty() ? Json() : Json(undone_.back().what)}};
  publish_("files", text_of(out));
}

Json Worker::finding_json(const Finding& finding) const {
  const auto file = std::find(files_.begin(), files_.end(), finding.file);
  return {{"code", text_of(finding.code)},
          {"level", is_error(finding) ? "error"
                    : finding.hint    ? "hint"
                                      : "warning"},
          {"file", file == files_.end() ? Json() : Json(file - files_.begin())},
          {"name", name_of(finding.file)},
          {"line", finding.line},
          {"column", finding.column},
          {"message", finding.message},
          {"remedy", finding.remedy}};
}

void Worker::tell_findings() {
  Json list = Json::array();
  for (const Finding& each : findings_) list.push_back(finding_json(each));
  for (std::size_t i = 0; i < proved_.size(); ++i) {
    Json one = finding_json(proved_[i].finding);
    if (proved_[i].tape) one["witness"] = i;
    list.push_back(std::move(one));
  }
  publish_("findings", text_of({{"broken", broken_}, {"checking", unchecked_}, {"list", std::move(list)}}));
}

Response Worker::witness(std::size_t number) const {
  if (number >= proved_.size() || !proved_[number].tape) return refuse({404, "witness", "no run is known for this"});
  Response out;
  out.type = "text/plain; charset=utf-8";
  out.body = tape_text(*proved_[number].tape);
  return out;
}

// --- writing --------------------------------------------------------------------------------------------------------

Response Worker::refuse(const Refusal& refusal) {
  Response out;
  out.status = refusal.status;
  out.body = text_of(refusal.json());
  return out;
}

std::optional<Refusal> Worker::may_write(const std::string& path) const {
  std::error_code error;
  const std::string whole = std::filesystem::weakly_canonical(path, error).string();
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

// One change by its meaning, made on the text that the page knows.
Response Worker::edit(const Json& one) {
  std::string machine_file;
  const Loaded* loaded = machine_of(one, machine_file);
  if (loaded == nullptr) return refuse({400, "edit", "there is no such machine"});
  const std::string clip = text_in(one, "clip"), kind = text_in(one, "kind");
  MarkEdit edit;
  edit.clip = clip;
  edit.place = text_in(one, "place");
  edit.name = text_in(one, "name");
  edit.to = text_in(one, "to");
  if (kind == "copy_marks") return copy_to_character(*loaded, machine_file, clip);
  const bool of_clip = kind == "rate" || kind == "play" || kind == "hold";
  if (!of_clip) {
    const auto read = mark_edit_kind(kind);
    if (!read) return refuse({400, "edit", "there is no edit \"" + kind + "\""});
    edit.kind = *read;
  }
  const auto index = one.find("index");
  if (index != one.end() && index->is_number_unsigned()) edit.index = index->get<std::size_t>();
  // Where the words of people go into a file, they stay one value.
  for (const std::string* words : {&edit.place, &edit.name, &edit.to})
    if (words->find_first_of("\r\n") != std::string::npos || words->size() > 1000)
      return refuse({400, "edit", "a mark is one line of at most 1000 letters"});
  const std::string target =
      of_clip ? file_of_clip(*loaded, machine_file, clip) : file_of_marks(*loaded, machine_file, clip);
  const auto before = read_file(target);
  if (!before) return refuse({500, "unreadable", before.error().text(), "", name_of(target)});
  // The hash of the text that the page has seen.
  if (const auto hashes = one.find("hashes"); hashes != one.end() && hashes->is_object()) {
    const auto known = hashes->find(name_of(target));
    if (known != hashes->end() && known->is_string() && known->get<std::string>() != hash_text(*before))
      return refuse(
          {409, "changed", name_of(target) + " was changed by somebody else; look at it again", "", name_of(target)});
  }
  const auto after = of_clip ? edit_clip(*before, {kind == "rate"   ? ClipEdit::Kind::rate
                                                   : kind == "play" ? ClipEdit::Kind::play
                                                                    : ClipEdit::Kind::hold,
                                                   clip, edit.index, edit.to})
                             : edit_marks(*before, edit);
  if (!after) return refuse({400, "edit", after.error().message, after.error().nearest, name_of(target), 0, 0});
  return try_and_write(target, *before, *after,
                       text_in(one, "what").empty() ? kind + " of " + clip : text_in(one, "what"));
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
  if (next.cast == nullptr) {
    const auto first =
        std::find_if(next.findings.begin(), next.findings.end(), [](const Finding& each) { return is_error(each); });
    if (first == next.findings.end()) return refuse({400, "edit", "it would not load", "", name_of(target)});
    Refusal refusal = refusal_of(*first);
    refusal.file = name_of(first->file);
    return refuse(refusal);
  }
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
  return folder + "/" + hash_text(std::filesystem::weakly_canonical(path, error).string()) + ".yaml";
}

Response Worker::keep_draft(const std::string& path, const Json& body) {
  const std::string draft = draft_of(path);
  const Json& words = body.at("draft");
  std::error_code error;
  Response out;
  out.body = "{}";
  if (draft.empty() || !words.is_string())
    std::filesystem::remove(draft, error);
  else if (const Outcome written = write_file(draft, words.get<std::string>()); !written)
    return refuse({500, "draft", written.error().text()});
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

// --- graphs ---------------------------------------------------------------------------------------------------------

Response Worker::graph(const std::string& fingerprint, std::uint16_t around, bool dark) {
  for (const auto& [file, loaded] : cast_->machines) {
    if (hex_text(loaded->machine->fingerprint()) != fingerprint) continue;
    const std::string key = fingerprint + " " + std::to_string(around) + (dark ? " dark" : "");
    if (!graphs_.contains(key)) {
      GraphOptions options;
      options.around = around < loaded->machine->states().size() ? around : kNoIndex;
      options.dark = dark;
      auto svg = graph_svg(*loaded->machine, options);
      if (!svg) return refuse({500, "graph", svg.error().text()});
      if (graphs_.size() >= kGraphs) graphs_.clear();
      graphs_[key] = std::make_shared<const std::string>(std::move(*svg));
    }
    Response out;
    out.type = "image/svg+xml";
    out.shared = graphs_[key];
    return out;
  }
  return refuse({404, "graph", "this machine is not loaded any more"});
}

}  // namespace mobrin::live
