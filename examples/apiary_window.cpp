// The apiary at dusk, live in a window. Arrows walk, Space swings the net, Up hops, F lights the smoker, B shows boxes,
// reaches, states and inputs, Escape leaves.
//   example_apiary_window demo/apiary [--script "0.2:right 1.4:-right 1.9:space" --until 3 --shot shot.png]
// A script presses keys at seconds (`-right` lets go) in steps of 1/60 s and needs nobody at the keyboard.
#include <SDL2/SDL.h>
#include <SDL2/SDL_ttf.h>

#include <array>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <map>
#include <memory>
#include <sstream>
#include <string>
#include <vector>

#include "mobrin/contact/contacts.hpp"
#include "mobrin/contact/zones.hpp"
#include "mobrin/core/router.hpp"
#include "mobrin/io/image.hpp"
#include "mobrin/io/load.hpp"

namespace {

using namespace mobrin;

constexpr int kWidth = 960, kHeight = 420;
constexpr double kZoom = 3;      // picture pixels to an art pixel
constexpr double kGround = 360;  // where y = 0 is drawn
constexpr double kLeft = -1.5;   // the world's left edge in the window
constexpr std::uint32_t kHive = 0, kSmoker = 1, kKeeper = 2, kHornet = 3, kSister = 4;

Vec2 between(Vec2 from, Vec2 to, double share) {
  share = std::min(share, 1.0);
  return {from.x + (to.x - from.x) * share, from.y + (to.y - from.y) * share};
}

struct Actor {
  Actor(const Loaded& loaded, Placement at, Tags worn) : instance(*loaded.machine), before(at), place(at), tags(worn) {}
  Instance instance;
  Placement before, place;  // at the step's begin and now
  Tags tags = 0;
  [[nodiscard]] bool dead() const {
    const auto trait = instance.machine().trait("dead");
    return instance.done() || (trait && instance.is(*trait));
  }
};

class Apiary {
 public:
  explicit Apiary(const std::string& folder) : folder_(folder + "/"), contacts_(tags_), zones_(tags_) {
    const Tags keeper = tags_.bit("keeper"), hornet = tags_.bit("hornet");
    add(folder + "/hive.yaml", {{5, 0}}, 0);
    add(folder + "/smoker.yaml", {{3.4, 0}}, 0);
    add(folder + "/keeper.yaml", {{0, 0}}, keeper);
    add(folder + "/hornet.yaml", {{2.2, 0.45}, true}, hornet);
    add(folder + "/marsh_hornet.yaml", {kRoost, true}, hornet);
  }
  [[nodiscard]] bool sound() const { return actors_.size() == 5; }
  bool shows_shapes = true;
  std::string said;  // the last cue

  void press(const std::string& key, bool down) {
    Instance& keeper = actors_[kKeeper].instance;
    if (key == "left" || key == "right") {
      (key == "left" ? left_ : right_) = down;
    } else if (!down) {
      return;
    } else if (key == "space") {
      (void)keeper.pulse_by_name("swing");
    } else if (key == "up") {
      (void)keeper.pulse_by_name("hop");
    } else if (key == "f") {
      (void)actors_[kSmoker].instance.pulse_by_name("lit");
      (void)actors_[kHive].instance.set_by_name("smoker_lit", FieldValue(true));
    } else if (key == "b") {
      shows_shapes = !shows_shapes;
    }
  }

  // One step of the game: move, cover the step with all, then work off hits and zones.
  void step(Ticks dt) {
    Actor& keeper = actors_[kKeeper];
    const auto busy = keeper.instance.machine().trait("busy");
    const bool free = !keeper.dead() && !(busy && keeper.instance.is(*busy));
    const double move = free ? (right_ ? 1.0 : 0.0) - (left_ ? 1.0 : 0.0) : 0.0;
    (void)keeper.instance.set_by_name("carrying", FieldValue(std::string("net")));
    (void)keeper.instance.set_by_name("move", FieldValue(move));
    for (Actor& actor : actors_) actor.before = actor.place;
    keeper.place.at.x += move * 1.2 * dt.to_seconds();
    if (move != 0) keeper.place.faces_left = move < 0;
    Actor& hornet = actors_[kHornet];
    if (!hornet.dead()) hornet.place.at.y = 0.45 + 0.06 * std::sin(hornet.instance.now().to_seconds() * 5);
    move_sister(dt);

    const Ticks from = keeper.instance.now(), to = from + dt;
    contacts_.begin(from, to);
    zones_.begin(from, to);
    for (std::uint32_t i = 0; i < actors_.size(); ++i) {
      Actor& actor = actors_[i];
      contacts_.advance({i, actor.tags, !actor.dead(), actor.before, actor.place}, actor.instance, [&](const Cue& cue) {
        if (cue.what == Told::cue) said = std::string(cue.name());
      });
      zones_.add_owner(i, actor.instance, actor.before, actor.place);
      zones_.add_visitor({i, actor.tags, actor.before.at, actor.place.at});
    }
    contacts_.resolve([&](const Hit& hit) {
      if (hit.by == kKeeper) {
        (void)actors_[hit.on].instance.pulse_by_name("stunned");
        ++netted;
      } else if (hit.on == kKeeper) {
        (void)actors_[kKeeper].instance.pulse_by_name("stung");
        (void)actors_[kKeeper].instance.set_by_name("health", FieldValue(std::int64_t{health()} - 2));
        ++stung;
      }
      return HitAnswer::lives;
    });
    zones_.resolve();
  }
  int netted = 0, stung = 0;
  [[nodiscard]] std::int32_t health() const {
    const Instance& keeper = actors_[kKeeper].instance;
    return keeper.value(*keeper.machine().input<std::int32_t>("health"));
  }

  void draw(SDL_Renderer* renderer, TTF_Font* font) {
    SDL_SetRenderDrawColor(renderer, 241, 239, 233, 255);
    SDL_RenderClear(renderer);
    SDL_SetRenderDrawColor(renderer, 231, 228, 221, 255);
    const SDL_FRect ground{0, static_cast<float>(kGround), kWidth, kHeight - static_cast<float>(kGround)};
    SDL_RenderFillRectF(renderer, &ground);
    for (Actor& actor : actors_) draw_art(renderer, actor);
    if (!shows_shapes) return;
    int line = 8;
    for (Actor& actor : actors_) {
      draw_shapes(renderer, actor);
      write(renderer, font, words_of(actor), 10, line);
      line += 18;
    }
    write(renderer, font,
          "netted: " + std::to_string(netted) + "   stung: " + std::to_string(stung) +
              (said.empty() ? "" : "   last cue: " + said),
          10, line);
  }

 private:
  static constexpr Vec2 kRoost{4.6, 1.4};

  // What the second hornet wants: it waits at its roost, and once it has looked at a keeper long enough it dives at
  // them and flies back. The machine says what it is at; this only moves it.
  void move_sister(Ticks dt) {
    Actor& sister = actors_[kSister];
    const Actor& keeper = actors_[kKeeper];
    if (sister.dead()) return;
    Instance& it = sister.instance;
    const double away = keeper.place.at.x - sister.place.at.x;
    (void)it.set_by_name("sees_keeper", FieldValue(std::abs(away) < 4 && !keeper.dead()));
    (void)it.set_by_name("distance", FieldValue(std::abs(away) * 32));
    const std::string_view state = it.active_path();
    if (state != sister_state_) {
      sister_state_ = state;
      in_state_ = 0;
      from_ = sister.place.at;
    }
    in_state_ += dt.to_seconds();
    if (state == "body/notice" && in_state_ > 2.4) (void)it.pulse_by_name("dive");
    if (state == "body/dive") {
      const double side = sister.place.faces_left ? 1 : -1;
      sister.place.at = between(from_, {keeper.place.at.x - 0.15 * side, 0.85}, in_state_ / 0.25);
    } else if (state != "body/stunned") {
      sister.place.at = between(from_, kRoost, in_state_ / 1.2);
      if (away != 0) sister.place.faces_left = away < 0;
    }
  }

  void add(const std::string& file, Placement at, Tags worn) {
    const Loaded loaded = load_character(file);
    for (const Finding& finding : loaded.findings) std::fprintf(stderr, "%s\n", finding.text().c_str());
    if (loaded.machine) actors_.emplace_back(loaded, at, worn);
  }

  static SDL_FPoint on_screen(Vec2 world) {
    return {static_cast<float>((world.x - kLeft) * 32 * kZoom), static_cast<float>(kGround - world.y * 32 * kZoom)};
  }

  struct Texture {
    std::unique_ptr<SDL_Texture, void (*)(SDL_Texture*)> texture{nullptr, SDL_DestroyTexture};
    int width = 0, height = 0;
  };

  const Texture& texture(SDL_Renderer* renderer, const std::string& image) {
    Texture& made = textures_[image];
    if (made.texture) return made;
    const auto pixels = load_png(folder_ + image);
    if (!pixels) return made;
    made = {
        {SDL_CreateTexture(renderer, SDL_PIXELFORMAT_RGBA32, SDL_TEXTUREACCESS_STATIC, pixels->width, pixels->height),
         SDL_DestroyTexture},
        pixels->width,
        pixels->height};
    SDL_UpdateTexture(made.texture.get(), nullptr, pixels->rgba.data(), pixels->width * 4);
    SDL_SetTextureBlendMode(made.texture.get(), SDL_BLENDMODE_BLEND);
    return made;
  }

  void draw_art(SDL_Renderer* renderer, const Actor& actor) {
    const Instance& it = actor.instance;
    if (it.done()) return;
    for (std::uint16_t region = 0; region < it.region_count(); ++region) {
      const Picture picture = it.picture(region, actor.place.faces_left);
      if (!picture) continue;
      const Texture& art = texture(renderer, it.machine().images()[picture.image]);
      const PictureCut cut = picture.cut(art.width, art.height);
      const SDL_FPoint at = on_screen(actor.place.at);
      const SDL_Rect from{cut.from.x, cut.from.y, cut.from.width, cut.from.height};
      const SDL_FRect to{at.x - static_cast<float>(cut.pivot_x * kZoom), at.y - static_cast<float>(cut.pivot_y * kZoom),
                         static_cast<float>(from.w * kZoom), static_cast<float>(from.h * kZoom)};
      SDL_RenderCopyExF(renderer, art.texture.get(), &from, &to, 0, nullptr,
                        picture.mirrored ? SDL_FLIP_HORIZONTAL : SDL_FLIP_NONE);
    }
  }

  static void outline(SDL_Renderer* renderer, const WorldShape& shape) {
    const SDL_FPoint corner = on_screen({shape.middle.x - shape.half_width, shape.middle.y + shape.half_height});
    const SDL_FRect box{corner.x, corner.y, static_cast<float>(2 * shape.half_width * 32 * kZoom),
                        static_cast<float>(2 * shape.half_height * 32 * kZoom)};
    SDL_RenderDrawRectF(renderer, &box);
  }

  static void draw_shapes(SDL_Renderer* renderer, const Actor& actor) {
    if (actor.instance.done()) return;
    const Machine& machine = actor.instance.machine();
    SDL_SetRenderDrawColor(renderer, 107, 77, 148, 255);
    for (const ZoneInfo& zone : machine.zones())
      outline(renderer, to_world(zone.def.shape, actor.place, machine.unit()));
    std::array<ActiveBox, 16> all;
    const std::size_t count = std::min(boxes(actor.instance, actor.place, all), all.size());
    for (std::size_t i = 0; i < count; ++i) {
      const bool hits = all[i].box->role.text == "hit";
      SDL_SetRenderDrawColor(renderer, hits ? 191 : 13, hits ? 13 : 107, hits ? 38 : 140, 255);
      outline(renderer, all[i].shape);
    }
    SDL_SetRenderDrawColor(renderer, 184, 74, 13, 255);
    for (const ReachDef& reach : machine.reaches()) {
      const auto* cone = std::get_if<ConeShape>(&reach.shape);
      if (cone == nullptr) continue;
      const SDL_FPoint tip = on_screen(to_world(Vec2{cone->x, cone->y}, actor.place, machine.unit()));
      for (const double side : {-0.5, 0.5}) {
        const double angle = cone->angle * side * 3.14159265358979 / 180;
        const SDL_FPoint end =
            on_screen(to_world(Vec2{cone->x + cone->length * std::cos(angle), cone->y + cone->length * std::sin(angle)},
                               actor.place, machine.unit()));
        SDL_RenderDrawLineF(renderer, tip.x, tip.y, end.x, end.y);
      }
    }
  }

  static std::string words_of(const Actor& actor) {
    const Instance& it = actor.instance;
    std::string out(it.machine().name());
    for (std::uint16_t region = 0; region < it.region_count(); ++region)
      if (const std::uint16_t leaf = it.active(region); leaf != kNoIndex)
        out += "  " + it.machine().states()[leaf].path;
    for (std::uint16_t i = 0; i < it.machine().inputs().size(); ++i) {
      const FieldValue value = it.input_value(i);
      char text[64];
      if (const auto* flag = std::get_if<bool>(&value))
        std::snprintf(text, sizeof text, "  %s=%s", it.machine().inputs()[i].name.text.c_str(),
                      *flag ? "true" : "false");
      else if (const auto* number = std::get_if<double>(&value))
        std::snprintf(text, sizeof text, "  %s=%g", it.machine().inputs()[i].name.text.c_str(), *number);
      else if (const auto* whole = std::get_if<std::int64_t>(&value))
        std::snprintf(text, sizeof text, "  %s=%lld", it.machine().inputs()[i].name.text.c_str(),
                      static_cast<long long>(*whole));
      else
        continue;
      out += text;
    }
    return out;
  }

  static void write(SDL_Renderer* renderer, TTF_Font* font, const std::string& text, int x, int y) {
    if (font == nullptr) return;
    SDL_Surface* surface = TTF_RenderUTF8_Blended(font, text.c_str(), {35, 38, 43, 255});
    if (surface == nullptr) return;
    SDL_Texture* words = SDL_CreateTextureFromSurface(renderer, surface);
    const SDL_Rect to{x, y, surface->w, surface->h};
    SDL_RenderCopy(renderer, words, nullptr, &to);
    SDL_DestroyTexture(words);
    SDL_FreeSurface(surface);
  }

  std::string folder_;
  TagNames tags_;
  Contacts contacts_;
  Zones zones_;
  std::vector<Actor> actors_;
  std::map<std::string, Texture> textures_;
  bool left_ = false, right_ = false;
  std::string sister_state_;
  double in_state_ = 0;  // seconds
  Vec2 from_;            // where the sister was when its state began
};

struct Press {
  double at = 0;
  std::string key;
  bool down = true;
};

std::vector<Press> read_script(const std::string& text) {
  std::vector<Press> out;
  std::istringstream words(text);
  for (std::string word; words >> word;) {
    const std::size_t colon = word.find(':');
    if (colon == std::string::npos) continue;
    Press press{std::strtod(word.c_str(), nullptr), word.substr(colon + 1)};
    if (press.key.starts_with('-')) press.key.erase(0, 1), press.down = false;
    out.push_back(std::move(press));
  }
  return out;
}

std::string name_of(SDL_Keycode key) {
  const std::string name = SDL_GetKeyName(key);
  std::string out;
  for (const char c : name) out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return out;
}

bool save_shot(SDL_Renderer* renderer, const std::string& path) {
  Image image{kWidth, kHeight, std::vector<std::uint8_t>(4u * kWidth * kHeight)};
  if (SDL_RenderReadPixels(renderer, nullptr, SDL_PIXELFORMAT_RGBA32, image.rgba.data(), kWidth * 4) != 0) return false;
  return bool(write_png(image, path));
}

}  // namespace

int main(int argc, char** argv) {
  std::string folder = "demo/apiary", shot;
  std::vector<Press> script;
  double until = 0;
  for (int i = 1; i < argc; ++i) {
    const bool more = i + 1 < argc;
    if (std::strcmp(argv[i], "--script") == 0 && more)
      script = read_script(argv[++i]);
    else if (std::strcmp(argv[i], "--until") == 0 && more)
      until = std::strtod(argv[++i], nullptr);
    else if (std::strcmp(argv[i], "--shot") == 0 && more)
      shot = argv[++i];
    else
      folder = argv[i];
  }
  if (SDL_Init(SDL_INIT_VIDEO) != 0 || TTF_Init() != 0) {
    std::fprintf(stderr, "no window: %s\n", SDL_GetError());
    return 1;
  }
  int exit_code = 0;
  {
    SDL_Window* window =
        SDL_CreateWindow("The apiary at dusk", SDL_WINDOWPOS_CENTERED, SDL_WINDOWPOS_CENTERED, kWidth, kHeight, 0);
    SDL_Renderer* renderer = SDL_CreateRenderer(window, -1, SDL_RENDERER_SOFTWARE);
    TTF_Font* font = TTF_OpenFont("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf", 13);
    auto apiary = std::make_unique<Apiary>(folder);
    if (renderer == nullptr || !apiary->sound()) {
      std::fprintf(stderr, "%s\n", renderer == nullptr ? SDL_GetError() : "the apiary's files cannot be loaded");
      exit_code = 1;
    }
    const bool scripted = until > 0;
    std::size_t next = 0;
    double now = 0;
    for (bool open = exit_code == 0; open;) {
      for (SDL_Event event; SDL_PollEvent(&event) != 0;) {
        if (event.type == SDL_QUIT) open = false;
        if (scripted || (event.type != SDL_KEYDOWN && event.type != SDL_KEYUP) || event.key.repeat != 0) continue;
        if (event.key.keysym.sym == SDLK_ESCAPE) open = false;
        apiary->press(name_of(event.key.keysym.sym), event.type == SDL_KEYDOWN);
      }
      for (; next < script.size() && script[next].at <= now; ++next) apiary->press(script[next].key, script[next].down);
      apiary->step(seconds(1.0 / 60));
      now += 1.0 / 60;
      apiary->draw(renderer, font);
      if (scripted && now >= until) {
        open = false;
        if (!shot.empty() && !save_shot(renderer, shot)) exit_code = 1;
        std::printf("netted %d, stung %d, health %d\n", apiary->netted, apiary->stung,
                    static_cast<int>(apiary->health()));
      }
      SDL_RenderPresent(renderer);
      if (!scripted) SDL_Delay(16);
    }
    apiary.reset();
    if (font != nullptr) TTF_CloseFont(font);
    SDL_DestroyRenderer(renderer);
    SDL_DestroyWindow(window);
  }
  TTF_Quit();
  SDL_Quit();
  return exit_code;
}
