// The worker: files, and all that takes its time: loading, checking, laying out graphs. One thread's.
#pragma once

#include <deque>
#include <filesystem>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <vector>

#include "host.hpp"
#include "mobrin/prove/prove.hpp"
#include "server.hpp"
#include "tables.hpp"

namespace mobrin::live {

// Art and sounds by number, for as long as the page may ask for them. Any thread's.
class Shelf {
 public:
  // Puts the pictures and sounds of a cast on it and writes their numbers into its tables.
  void add(Tables& tables);
  [[nodiscard]] std::shared_ptr<const std::string> picture(std::size_t number) const;
  [[nodiscard]] std::string sound(std::size_t number) const;

 private:
  mutable std::mutex lock_;
  std::vector<std::shared_ptr<const std::string>> pictures_;
  std::map<std::string, std::size_t> known_;  // by hash
  std::vector<std::string> sounds_;
};

class Worker {
 public:
  using Publish = Host::Publish;
  // A cast that has loaded, with its tables as text.
  using Take = std::function<void(std::shared_ptr<const Cast>, std::shared_ptr<const std::string>)>;

  Worker(LoadedCast loaded, std::string path, Shelf& shelf, Publish publish, Take take);

  // Looks whether files have changed; at times checks what was loaded.
  void look_around();
  // Each answers a request; a status of 200 is done.
  [[nodiscard]] Response edit(const Json& one);
  [[nodiscard]] Response undo(bool again);
  [[nodiscard]] Response file(std::size_t number);
  [[nodiscard]] Response save(std::size_t number, const Json& body);
  [[nodiscard]] Response keep(const Json& one);
  [[nodiscard]] Response graph(const std::string& machine, std::uint16_t around, bool dark);
  [[nodiscard]] Response witness(std::size_t number) const;
  [[nodiscard]] std::shared_ptr<const std::string> tables() const { return tables_; }
  [[nodiscard]] const std::vector<std::string>& files() const { return files_; }
  // Held while a file is being written.
  [[nodiscard]] std::mutex& writing() { return writing_; }

 private:
  struct Seen {  // of a file, when it was looked at last
    std::filesystem::file_time_type changed{};
    std::uintmax_t size = 0;
    bool operator==(const Seen&) const = default;
  };
  struct Change {
    std::string path, before, after, what;
  };
  void take(LoadedCast loaded);
  void load();
  void show(LoadedCast loaded);
  void remember(Change change);
  void check();
  void tell_files();
  void tell_findings();
  [[nodiscard]] static Seen seen(const std::string& path);
  [[nodiscard]] std::string name_of(const std::string& path) const;
  [[nodiscard]] std::optional<Refusal> may_write(const std::string& path) const;
  [[nodiscard]] std::optional<Refusal> write(const std::string& path, const std::string& before,
                                             const std::string& after);
  [[nodiscard]] static Response refuse(const Refusal& refusal);
  [[nodiscard]] Response copy_to_character(const Loaded& loaded, const std::string& file, const std::string& clip);
  [[nodiscard]] Response try_and_write(const std::string& target, const std::string& before, const std::string& after,
                                       const std::string& what);
  // An edit: of which file, how its text changes, and the box that it means by its number.
  struct Planned {
    std::string target{}, what{};
    std::function<Result<std::string>(const std::string& text)> change{};
    std::optional<std::pair<std::string, std::size_t>> box{};
  };
  [[nodiscard]] std::optional<Refusal> plan(const Json& one, const Loaded& loaded, const std::string& file,
                                            Planned& out) const;
  [[nodiscard]] Response put_in_draft(const Planned& planned, const std::string& before, const std::string& after,
                                      const Loaded& loaded, const std::string& machine_file);
  [[nodiscard]] std::optional<Refusal> refusal_of_load(const LoadedCast& next, const std::string& target) const;
  [[nodiscard]] static std::string draft_of(const std::string& path);
  [[nodiscard]] Response keep_draft(const std::string& path, const Json& body);
  [[nodiscard]] Json finding_json(const Finding& finding) const;
  [[nodiscard]] const Loaded* machine_of(const Json& one, std::string& file) const;

  const std::string path_, folder_;
  Shelf& shelf_;
  Publish publish_;
  Take take_;
  std::shared_ptr<const Cast> cast_;
  std::shared_ptr<const std::string> tables_;
  std::vector<std::string> files_;
  std::map<std::string, Seen> seen_;
  std::map<std::string, std::string> hashes_;
  std::vector<Finding> findings_;      // of the last loading
  std::vector<ProvedFinding> proved_;  // of the last that worked
  bool unchecked_ = true, broken_ = false;
  std::deque<Change> done_, undone_;
  std::map<std::string, std::shared_ptr<const std::string>> graphs_;
  std::mutex writing_;
};

}  // namespace mobrin::live
