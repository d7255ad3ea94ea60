// The page's door: requests below a secret path, answered now or later, and streams of what is newest. No rule of the
// game lives here.
#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <string>
#include <string_view>

#include "mobrin/core/result.hpp"

namespace mobrin::live {

struct Request {
  bool post = false;
  std::string path;                          // below the token: `events`, `file/3`
  std::map<std::string, std::string> query;  // decoded
  std::string body;
};

struct Response {
  int status = 200;
  std::string type = "application/json";
  std::string body{};
  std::shared_ptr<const std::string> shared{};  // instead of `body`, for what many get
};

// An answer; may be called from any thread, once.
using Reply = std::function<void(Response)>;

class Server {
 public:
  // Called in the server's thread; must not take long.
  struct Handler {
    virtual ~Handler() = default;
    virtual void handle(const Request& request, Reply reply) = 0;
    // So many look on now.
    virtual void viewers(std::size_t count) = 0;
  };
  static constexpr std::size_t kViewers = 4;

  // `port` 0: a free one. `handler` outlives the server.
  [[nodiscard]] static Result<std::unique_ptr<Server>> start(std::uint16_t port, Handler& handler);
  // Ends all that is open.
  ~Server();
  Server(const Server&) = delete;
  Server& operator=(const Server&) = delete;

  // `http://127.0.0.1:PORT/TOKEN/`
  [[nodiscard]] std::string address() const;
  // What all who look on get next of a topic, in place of what they did not take yet. From any thread.
  void publish(std::string_view topic, std::string data);

 private:
  struct Inside;
  explicit Server(std::unique_ptr<Inside> inside);
  std::unique_ptr<Inside> inside_;
};

}  // namespace mobrin::live
