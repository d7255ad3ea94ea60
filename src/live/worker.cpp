// The worker: what files say, what is wrong with them, their graphs.
#include "worker.hpp"

#include <algorithm>
#include <set>

#include "mobrin/draw/graph.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/prove/art_files.hpp"

namespace mobrin::live {
namespace {

constexpr std::size_t kGraphs = 64;

std::string folder_of_path(const std::string& path) {
  const std::filesystem::path whole = whole_path(path);
  return whole.parent_path().string();
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
  const std::filesystem::path whole = whole_path(path);
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
    std::vector<Finding> art = art_file_findings(*loaded, file);
    std::vector<ProvedFinding> logic = logic_and_runs(*loaded->definition, *loaded->machine, limits).findings;
    honour_accepts(*loaded->definition, art, logic);
    for (Finding& each : art) proved_.push_back({std::move(each), {}});
    for (ProvedFinding& each : logic) proved_.push_back(std::move(each));
  }
  std::set<std::string> told;
  std::erase_if(proved_, [&](const ProvedFinding& each) { return !told.insert(each.finding.text()).second; });
  tell_findings();
}

void Worker::tell_files() {
  Json list = Json::array();
  for (const std::string& file : files_) {
    Json one = {{"name", name_of(file)}, {"hash", hashes_[file]}, {"write", !may_write(file).has_value()}};
    if (const std::string draft = draft_of(file); is_plain_file(draft))
      if (const auto typed = read_file(draft)) one["draft"] = hash_text(*typed);
    list.push_back(std::move(one));
  }
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
