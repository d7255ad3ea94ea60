// The page's door, on libmicrohttpd: one thread, streams that sleep while there is nothing new.
#include "server.hpp"

#include <arpa/inet.h>
#include <microhttpd.h>
#include <netinet/in.h>
#include <sys/socket.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cstring>
#include <list>
#include <mutex>
#include <optional>
#include <set>
#include <vector>

#include "mobrin/probe/wire.hpp"

namespace mobrin::live {
namespace {

constexpr std::size_t kConnections = 64, kSilent = 40;  // of these, that have asked for nothing yet
constexpr unsigned kIdleSeconds = 10;
constexpr std::size_t kHeaderBlock = std::size_t{16} << 10;
constexpr std::size_t kCommandBody = std::size_t{64} << 10, kFileBody = std::size_t{8} << 20;
constexpr double kPostsASecond = 200;

std::string refusal(const char* code, const std::string& text) {
  return "{\"code\":\"" + std::string(code) + "\",\"text\":\"" + text + "\"}";
}

}  // namespace

// One request on its way.
struct Exchange {
  std::mutex lock;
  MHD_Connection* connection = nullptr;
  Request request;
  std::size_t limit = 0;
  bool refused = false, asked = false, sleeping = false;
  std::optional<Response> answer;

  void give(Response given) {
    const std::lock_guard held(lock);
    if (answer) return;
    answer = std::move(given);
    if (!sleeping) return;
    sleeping = false;
    MHD_resume_connection(connection);
  }
};

struct Server::Inside {
  Handler* handler = nullptr;
  MHD_Daemon* daemon = nullptr;
  std::string secret;
  std::atomic<std::uint16_t> port{0};  // known when the daemon runs already
  std::atomic<bool> stopping{false};

  // What is newest of each topic.
  struct Topic {
    std::string name, data;
    std::uint64_t version = 0;
  };
  struct Stream {
    Inside* inside = nullptr;
    MHD_Connection* connection = nullptr;
    bool sleeping = false, told_to_go = false;
    std::map<std::string, std::uint64_t> seen;
    std::string pending;
    std::size_t sent = 0;
  };
  std::mutex lock;  // of all below
  std::vector<Topic> topics;
  std::list<std::shared_ptr<Stream>> streams;
  std::set<std::shared_ptr<Exchange>> open;
  // In the server's thread only.
  std::list<MHD_Connection*> silent;  // the oldest first
  double posts = kPostsASecond;
  std::chrono::steady_clock::time_point posted{};

  bool may_post() {
    const auto now = std::chrono::steady_clock::now();
    posts = std::min(kPostsASecond, posts + kPostsASecond * std::chrono::duration<double>(now - posted).count());
    posted = now;
    if (posts < 1) return false;
    posts -= 1;
    return true;
  }

  // --- streams ---

  static ssize_t next_bytes(void* context, std::uint64_t, char* out, std::size_t room) {
    auto& stream = *static_cast<Stream*>(context);
    Inside& inside = *stream.inside;
    const std::lock_guard held(inside.lock);
    if (inside.stopping) return MHD_CONTENT_READER_END_OF_STREAM;
    if (stream.sent == stream.pending.size()) {
      stream.pending.clear();
      stream.sent = 0;
      if (stream.told_to_go) return MHD_CONTENT_READER_END_OF_STREAM;
      for (const Topic& topic : inside.topics) {
        std::uint64_t& seen = stream.seen[topic.name];
        if (seen == topic.version) continue;
        seen = topic.version;
        stream.pending += "event: " + topic.name + "\ndata: " + topic.data + "\n\n";
      }
      if (stream.pending.empty()) {
        stream.sleeping = true;
        MHD_suspend_connection(stream.connection);
        return 0;
      }
    }
    const std::size_t count = std::min(room, stream.pending.size() - stream.sent);
    std::copy_n(stream.pending.data() + stream.sent, count, out);
    stream.sent += count;
    return static_cast<ssize_t>(count);
  }

  static void end_stream(void* context) {
    auto* stream = static_cast<Stream*>(context);
    Inside& inside = *stream->inside;
    std::size_t count = 0;
    {
      const std::lock_guard held(inside.lock);
      inside.streams.remove_if([&](const auto& each) { return each.get() == stream; });
      count = inside.viewers();
    }
    if (!inside.stopping) inside.handler->viewers(count);
  }

  [[nodiscard]] std::size_t viewers() const {
    return static_cast<std::size_t>(
        std::count_if(streams.begin(), streams.end(), [](const auto& each) { return !each->told_to_go; }));
  }

  MHD_Result begin_stream(MHD_Connection* connection) {
    const auto stream = std::make_shared<Stream>();
    stream->inside = this;
    stream->connection = connection;
    std::size_t count = 0;
    {
      const std::lock_guard held(lock);
      if (viewers() >= kViewers) {
        stream->told_to_go = true;
        stream->pending = "event: full\ndata: {\"viewers\":" + std::to_string(kViewers) + "}\n\n";
      }
      streams.push_back(stream);
      count = viewers();
    }
    MHD_Response* response = MHD_create_response_from_callback(MHD_SIZE_UNKNOWN, std::size_t{16} << 10, next_bytes,
                                                               stream.get(), end_stream);
    add_headers(response, "text/event-stream");
    const MHD_Result result = MHD_queue_response(connection, MHD_HTTP_OK, response);
    MHD_destroy_response(response);
    if (!stream->told_to_go) handler->viewers(count);
    return result;
  }

  // --- answers ---

  static void add_headers(MHD_Response* response, const std::string& type) {
    const auto add = [&](const char* name, const char* value) { (void)MHD_add_response_header(response, name, value); };
    add("Content-Type", type.c_str());
    add("Content-Security-Policy",
        "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'");
    add("Referrer-Policy", "no-referrer");
    add("X-Content-Type-Options", "nosniff");
    add("Cache-Control", "no-store");
  }

  static MHD_Result answer(MHD_Connection* connection, const Response& given) {
    const std::string& body = given.shared ? *given.shared : given.body;
    MHD_Response* response = MHD_create_response_from_buffer(body.size(), const_cast<char*>(body.data()),  // NOLINT
                                                             MHD_RESPMEM_MUST_COPY);
    add_headers(response, given.type);
    const MHD_Result result = MHD_queue_response(connection, static_cast<unsigned>(given.status), response);
    MHD_destroy_response(response);
    return result;
  }

  static MHD_Result refuse(MHD_Connection* connection, int status, const char* code, const std::string& text) {
    Response given;
    given.status = status;
    given.body = refusal(code, text);
    return answer(connection, given);
  }

  // What is looked at before a body is read; empty where all is well.
  struct Refused {
    int status = 0;
    const char* code = "";
    std::string text;
  };
  std::optional<Refused> look(MHD_Connection* connection, std::string_view url, bool post, Exchange& exchange) {
    const auto header = [&](const char* name) -> std::string_view {
      const char* value = MHD_lookup_connection_value(connection, MHD_HEADER_KIND, name);
      return value == nullptr ? std::string_view() : value;
    };
    const std::string at = ":" + std::to_string(port);
    const std::string_view host = header("Host");
    if (host != "127.0.0.1" + at && host != "localhost" + at)
      return Refused{403, "host", "this is served to this computer only"};
    const std::string_view origin = header("Origin");
    if (!origin.empty() && origin != "http://127.0.0.1" + at && origin != "http://localhost" + at)
      return Refused{403, "origin", "this page may not be asked from elsewhere"};
    const std::size_t slash = url.find('/', 1);
    const std::string_view given = url.substr(1, slash == std::string_view::npos ? url.npos : slash - 1);
    if (slash == std::string_view::npos || !probe::same_secret(given, secret))
      return Refused{404, "token", "open the address that mobrin live printed"};
    exchange.request.path = url.substr(slash + 1);
    exchange.request.post = post;
    if (!post) return std::nullopt;
    if (!may_post()) return Refused{429, "too-many", "at most 200 commands a second"};
    if (!header("Content-Type").starts_with("application/json"))
      return Refused{415, "type", "commands are application/json"};
    exchange.limit = exchange.request.path.starts_with("file/") ? kFileBody : kCommandBody;
    const std::string_view length = header("Content-Length");
    if (length.empty()) return Refused{411, "length", "say how long the body is"};
    if (length.size() > 9 || std::strtoull(std::string(length).c_str(), nullptr, 10) > exchange.limit)
      return Refused{413, "length", "the body is too long"};
    return std::nullopt;
  }

  static MHD_Result add_query(void* context, MHD_ValueKind, const char* key, const char* value) {
    auto& query = *static_cast<std::map<std::string, std::string>*>(context);
    if (query.size() < 16) query[key] = value == nullptr ? "" : value;
    return MHD_YES;
  }

  static MHD_Result access(void* context, MHD_Connection* connection, const char* url, const char* method, const char*,
                           const char* data, std::size_t* size, void** state) {
    auto& inside = *static_cast<Inside*>(context);
    if (*state == nullptr) {
      inside.silent.remove(connection);
      (void)MHD_set_connection_option(connection, MHD_CONNECTION_OPTION_TIMEOUT, kIdleSeconds);
      const auto exchange = std::make_shared<Exchange>();
      exchange->connection = connection;
      *state = new std::shared_ptr<Exchange>(exchange);  // deleted when it is done
      const bool post = std::strcmp(method, "POST") == 0;
      if (!post && std::strcmp(method, "GET") != 0) {
        exchange->refused = true;
        return refuse(connection, 405, "method", "GET and POST only");
      }
      if (const auto refused = inside.look(connection, url, post, *exchange)) {
        exchange->refused = true;
        return refuse(connection, refused->status, refused->code, refused->text);
      }
      return MHD_YES;
    }
    const std::shared_ptr<Exchange> exchange = *static_cast<std::shared_ptr<Exchange>*>(*state);
    if (exchange->refused) {
      *size = 0;
      return MHD_YES;
    }
    if (*size > 0) {
      if (exchange->request.body.size() + *size > exchange->limit) return MHD_NO;
      exchange->request.body.append(data, *size);
      *size = 0;
      return MHD_YES;
    }
    if (!exchange->asked) {
      exchange->asked = true;
      if (!exchange->request.post && exchange->request.path == "events") return inside.begin_stream(connection);
      (void)MHD_get_connection_values(connection, MHD_GET_ARGUMENT_KIND, add_query, &exchange->request.query);
      {
        const std::lock_guard held(inside.lock);
        inside.open.insert(exchange);
      }
      inside.handler->handle(exchange->request, [exchange](Response given) { exchange->give(std::move(given)); });
    }
    const std::lock_guard held(exchange->lock);
    if (exchange->answer) return answer(connection, *exchange->answer);
    if (inside.stopping) return MHD_NO;
    exchange->sleeping = true;
    MHD_suspend_connection(connection);
    return MHD_YES;
  }

  static void completed(void* context, MHD_Connection*, void** state, MHD_RequestTerminationCode) {
    auto& inside = *static_cast<Inside*>(context);
    auto* exchange = static_cast<std::shared_ptr<Exchange>*>(*state);
    if (exchange == nullptr) return;
    {
      const std::lock_guard held(inside.lock);
      inside.open.erase(*exchange);
    }
    {
      const std::lock_guard held((*exchange)->lock);
      if (!(*exchange)->answer) (*exchange)->answer.emplace();  // nobody waits for it any more
      (*exchange)->sleeping = false;
    }
    delete exchange;
    *state = nullptr;
  }

  // Those that say nothing must not keep others out: the oldest goes.
  static void connected(void* context, MHD_Connection* connection, void**, MHD_ConnectionNotificationCode code) {
    auto& inside = *static_cast<Inside*>(context);
    if (code == MHD_CONNECTION_NOTIFY_CLOSED) {
      inside.silent.remove(connection);
      return;
    }
    inside.silent.push_back(connection);
    if (inside.silent.size() <= kSilent) return;
    if (const auto* info = MHD_get_connection_info(inside.silent.front(), MHD_CONNECTION_INFO_CONNECTION_FD))
      (void)shutdown(info->connect_fd, SHUT_RDWR);
    inside.silent.pop_front();
  }
};

Server::Server(std::unique_ptr<Inside> inside) : inside_(std::move(inside)) {}

Result<std::unique_ptr<Server>> Server::start(std::uint16_t port, Handler& handler) {
  auto inside = std::make_unique<Inside>();
  inside->handler = &handler;
  inside->secret = probe::random_secret();
  if (inside->secret.empty()) return Error{"this system gives no random numbers", ""};
  sockaddr_in address{};
  address.sin_family = AF_INET;
  address.sin_port = htons(port);
  address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  inside->daemon = MHD_start_daemon(
      MHD_USE_EPOLL_INTERNAL_THREAD | MHD_ALLOW_SUSPEND_RESUME, port, nullptr, nullptr, &Inside::access, inside.get(),
      MHD_OPTION_SOCK_ADDR, reinterpret_cast<sockaddr*>(&address), MHD_OPTION_CONNECTION_LIMIT,
      static_cast<unsigned>(kConnections), MHD_OPTION_CONNECTION_TIMEOUT, kIdleSeconds,
      MHD_OPTION_CONNECTION_MEMORY_LIMIT, kHeaderBlock, MHD_OPTION_NOTIFY_COMPLETED, &Inside::completed, inside.get(),
      MHD_OPTION_NOTIFY_CONNECTION, &Inside::connected, inside.get(), MHD_OPTION_END);
  if (inside->daemon == nullptr)
    return Error{"port " + std::to_string(port) + " of 127.0.0.1 cannot be served", "",
                 port == 0 ? "" : "Somebody else may be using it; leave `--port` out for a free one."};
  const auto* info = MHD_get_daemon_info(inside->daemon, MHD_DAEMON_INFO_BIND_PORT);
  inside->port = info == nullptr ? port : static_cast<std::uint16_t>(info->port);
  return std::unique_ptr<Server>(new Server(std::move(inside)));
}

Server::~Server() {
  inside_->stopping = true;
  std::vector<std::shared_ptr<Exchange>> open;
  {
    const std::lock_guard held(inside_->lock);
    open.assign(inside_->open.begin(), inside_->open.end());
    for (const auto& stream : inside_->streams)
      if (std::exchange(stream->sleeping, false)) MHD_resume_connection(stream->connection);
  }
  Response over;
  over.status = 503;
  over.body = refusal("over", "the page's server has ended");
  for (const auto& exchange : open) exchange->give(over);
  MHD_stop_daemon(inside_->daemon);
}

std::string Server::address() const {
  return "http://127.0.0.1:" + std::to_string(inside_->port) + "/" + inside_->secret + "/";
}

void Server::publish(std::string_view topic, std::string data) {
  const std::lock_guard held(inside_->lock);
  auto found = std::find_if(inside_->topics.begin(), inside_->topics.end(),
                            [&](const auto& each) { return each.name == topic; });
  if (found == inside_->topics.end()) {
    inside_->topics.push_back({std::string(topic), "", 0});
    found = inside_->topics.end() - 1;
  }
  found->data = std::move(data);
  ++found->version;
  for (const auto& stream : inside_->streams)
    if (std::exchange(stream->sleeping, false)) MHD_resume_connection(stream->connection);
}

}  // namespace mobrin::live
