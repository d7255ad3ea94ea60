// The live page: a server for one browser page that shows, plays and edits what a file holds.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "mobrin/core/finding.hpp"
#include "mobrin/core/result.hpp"

namespace mobrin {

/// What is shown live, and how.
struct LiveOptions {
  std::string file{};      ///< a machine, a character or a scene
  std::uint16_t port = 0;  ///< 0: a free one
  std::string tape{};      ///< played first, by the first actor; empty: none
  bool still = false;      ///< time moves by command only
  std::string attach{};    ///< a running game to watch: Probe::address(); `file` may then be empty
};

/// Serves the page on 127.0.0.1 from start() until it is destroyed, which takes as long as a file that is being written
/// and no longer. Files are written below the folder of the one that is named, nowhere else. Has three threads of its
/// own; the object belongs to one.
class Live {
 public:
  /// A page that is served, or why not.
  struct Started {
    std::unique_ptr<Live> live{};     ///< null where something is an error
    std::vector<Finding> findings{};  ///< of loading
    std::string error{};              ///< what else was wrong, such as a port that is taken
  };
  /// Loads what is to be shown and begins to serve it.
  [[nodiscard]] static Started start(const LiveOptions& options);
  ~Live();
  Live(const Live&) = delete;
  Live& operator=(const Live&) = delete;

  /// Waits until no file is being written. For who ends the process at once.
  void finish_writing();

  /// Where the page is: only who has this address gets in.
  [[nodiscard]] std::string address() const;

 private:
  struct Inside;
  explicit Live(std::unique_ptr<Inside> inside);
  std::unique_ptr<Inside> inside_;
};

}  // namespace mobrin
