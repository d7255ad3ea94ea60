// The host: plays a session by the clock and by command, and says what is so. One thread's.
#pragma once

#include <chrono>
#include <deque>
#include <functional>
#include <memory>
#include <string>

#include "attach.hpp"
#include "json.hpp"
#include "mobrin/live/session.hpp"

namespace mobrin::live {

// A command that cannot be done: the page shows it where the hand is.
struct Refusal {
  int status = 400;
  std::string code{}, text{}, nearest{};
  std::string file{};
  std::uint32_t line = 0, column = 0;
  [[nodiscard]] Json json() const;
};
[[nodiscard]] Refusal refusal_of(const Finding& finding);

class Host {
 public:
  using Clock = std::chrono::steady_clock;
  using Publish = std::function<void(std::string_view topic, std::string data)>;

  Host(std::shared_ptr<const Cast> cast, const Tape* tape, bool still, Publish publish);

  // Goes on by the time that has passed, and tells it. When to be called again.
  Clock::time_point frame();
  void set_viewers(std::size_t count);
  void reload(std::shared_ptr<const Cast> cast);
  // Of a running game: see Attach. What asks it for something is false where it does not let.
  struct Game {
    std::function<bool(std::uint32_t actor, const TapeStep& step)> write;
    std::function<bool(std::uint32_t actor, std::uint32_t place)> choose;  // a member of a crowd
    std::function<void(const std::string& name)> look_at;                  // those with another clock
  };
  void attach(Game game);
  // `group`: the frames of which are the newest cast's.
  void expect(std::uint32_t group);
  void follow(WatchedFrame frame);
  void game_ended();

  // Does a list of commands in order; stops at the first that cannot be done. What is answered has the number of the
  // first `now` that shows it, and what commands ask for.
  [[nodiscard]] Json commands(const Json& list, Refusal& refusal);
  [[nodiscard]] Json past(Ticks from, Ticks to) const;
  [[nodiscard]] Json past_of(std::uint32_t strand) const;
  [[nodiscard]] std::uint32_t newest() const { return session_.newest(); }

 private:
  struct Command;
  bool command(const Json& one, Json& answer, Refusal& refusal);
  // The commands: what each answers goes into `answer`; false with the reason where it cannot be done.
  bool write(const Json& one, Json& answer, Refusal& refusal);
  bool play(const Json& one, Json& answer, Refusal& refusal);
  bool set_speed(const Json& one, Json& answer, Refusal& refusal);
  bool jump(const Json& one, Json& answer, Refusal& refusal);
  bool advance(const Json& one, Json& answer, Refusal& refusal);
  bool step(const Json& one, Json& answer, Refusal& refusal);
  bool choose(const Json& one, Json& answer, Refusal& refusal);
  bool give_back(const Json& one, Json& answer, Refusal& refusal);
  bool take_up(const Json& one, Json& answer, Refusal& refusal);
  bool again(const Json& one, Json& answer, Refusal& refusal);
  bool set_halts(const Json& one, Json& answer, Refusal& refusal);
  bool considered(const Json& one, Json& answer, Refusal& refusal);
  bool tape(const Json& one, Json& answer, Refusal& refusal);
  bool load(const Json& one, Json& answer, Refusal& refusal);
  bool take_out(const Json& one, Json& answer, Refusal& refusal);
  bool member(const Json& one, Json& answer, Refusal& refusal);
  bool clock(const Json& one, Json& answer, Refusal& refusal);
  bool plot(const Json& one, Json& answer, Refusal& refusal);
  [[nodiscard]] bool readable(std::uint32_t actor, const std::string& expression, bool truth, Refusal& refusal) const;
  [[nodiscard]] std::optional<std::uint32_t> actor_of(const Json& one) const;
  void tell();
  void tell_why();
  [[nodiscard]] Json now() const;
  [[nodiscard]] Json actor(std::size_t index) const;
  [[nodiscard]] Json noted(std::size_t index) const;
  [[nodiscard]] Json looked(const std::vector<Session::Looked>& all) const;
  [[nodiscard]] Json last_rules(std::size_t actor) const;

  Session session_;
  const bool still_;
  Publish publish_;
  std::size_t viewers_ = 0;
  Game game_;
  std::vector<WatchedNote> notes_;  // of those that are watched, as they are now
  std::vector<std::pair<std::string, Ticks>> elsewhere_;
  bool watches_ = false, attached_ = false, ended_ = false;  // a game; time is the game's; it has gone
  std::uint64_t gaps_ = 0;
  std::uint32_t group_ = 0;
  bool playing_ = false;
  double speed_ = 1;
  double rest_ = 0;                      // of a tick, that the clock gave and time did not take yet
  std::deque<std::uint32_t> chosen_{0};  // by those who look on, the last one first
  std::uint64_t frames_ = 0;
  bool changed_ = true;
  std::string told_, why_;
  Clock::time_point last_{}, told_at_{}, why_at_{};
};

[[nodiscard]] Json json_of(const SessionRecord& record);
[[nodiscard]] Json json_of(const SessionWrite& write);

}  // namespace mobrin::live
