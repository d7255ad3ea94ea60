// The stage of a scene at an instant, a filmstrip, a film.
#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <set>
#include <tuple>

#include "canvas.hpp"
#include "mobrin/core/names.hpp"
#include "mobrin/draw/scene.hpp"
#include "mobrin/io/animation.hpp"

namespace mobrin {
namespace {

using namespace draw;

constexpr double kStageMargin = 20, kCaption = 24, kWidest = 1240;
constexpr Ticks kHitShows = milliseconds(150);
constexpr int kLooks = 400;  // at where everybody is, to see how large the stage is

struct World {
  double left = 0, right = 0, bottom = 0, top = 0;
};

// A blow through a reach, for as long as it is shown.
struct Reaching {
  Ticks at;
  const ReachDef* reach = nullptr;
  Placement from;
  double unit = 1;
};

class Stage {
 public:
  Stage(const Scene& scene, const StageOptions& options, std::size_t panels)
      : scene_(scene), options_(options), run_(scene) {
    measure();
    columns_ = panels <= 1 ? 1 : panels == 2 || panels == 4 ? 2 : 3;
    const double room = (kWidest - kStageMargin) / static_cast<double>(columns_) - kStageMargin;
    const double wide = (world_.right - world_.left) * unit_;
    scale_ = options.zoom > 0 ? options.zoom : std::clamp(room / wide, 0.1, 8.0);
    if (options.zoom <= 0 && scale_ > 1) scale_ = std::floor(scale_ * 2) / 2;
    width_ = std::ceil(wide * scale_);
    height_ = std::ceil((world_.top - world_.bottom) * unit_ * scale_);
  }

  [[nodiscard]] double width() const { return width_; }
  [[nodiscard]] double height() const { return height_; }
  [[nodiscard]] std::size_t columns() const { return columns_; }
  std::vector<std::string> messages;

  // Goes on to `at` and draws the stage there with its top left at (x, y).
  void draw(Canvas& canvas, Ticks at, double x, double y) {
    run_.run(at, [&](const SceneRecord& record) {
      if (record.what == SceneRecord::What::hit) hits_.push_back(record);
      if (record.what != SceneRecord::What::told || record.cue.what != Told::cue || record.cue.edge == Edge::end)
        return;
      const Machine& machine = *run_.actor(record.actor).machine;
      if (const ReachDef* reach = reach_of(record.cue, machine))
        reaches_.push_back({record.at, reach, run_.placement(record.actor, record.at), machine.unit()});
    });
    x_ = x;
    y_ = y;
    canvas.clip({x, y, width_, height_});
    canvas.fill({x, y, width_, height_}, kCellLight);
    const double ground = to_y(scene_.ground);
    canvas.fill({x, ground, width_, y + height_ - ground}, kCellDark);
    canvas.line(x, ground, x + width_, ground, kLine);
    std::vector<double> tops;
    for (std::size_t i = 0; i < run_.actors(); ++i) {
      top_of_art_ = to_y(run_.placement(i, at).at.y);
      draw_actor(canvas, i);
      tops.push_back(top_of_art_);
    }
    for (std::size_t i = 0; i < run_.actors() && options_.shapes; ++i) draw_shapes(canvas, i);
    labels_.clear();
    for (std::size_t i = 0; i < run_.actors() && options_.shapes; ++i) draw_name(canvas, i, tops[i]);
    for (const Reaching& each : reaches_)
      if (options_.shapes && at >= each.at && at - each.at <= kHitShows) draw_reach(canvas, each);
    for (const SceneRecord& hit : hits_) {
      if (at < hit.at || at - hit.at > kHitShows) continue;
      canvas.circle(to_x(hit.where.x), to_y(hit.where.y), 9, kCue.faded(0.25), kCue, 2.5);
    }
    canvas.no_clip();
    canvas.frame({x, y, width_, height_}, kLine);
  }

 private:
  [[nodiscard]] double to_x(double world) const { return x_ + (world - world_.left) * unit_ * scale_; }
  [[nodiscard]] double to_y(double world) const { return y_ + (world_.top - world) * unit_ * scale_; }

  // The stage holds everybody at all times, with what of their art can be seen.
  void measure() {
    SceneRun ahead(scene_);
    for (const SceneActor& actor : scene_.actors) unit_ = std::max(unit_, actor.machine->unit());
    std::optional<World> all;
    const auto hold = [&](const World& other) {
      if (!all) all = other;
      all = World{std::min(all->left, other.left), std::max(all->right, other.right),
                  std::min(all->bottom, other.bottom), std::max(all->top, other.top)};
    };
    for (int i = 0; i <= kLooks; ++i) {
      ahead.run(Ticks(scene_.until.count / kLooks * i + scene_.until.count % kLooks * i / kLooks),
                [](const SceneRecord&) {});
      for (std::size_t each = 0; each < ahead.actors(); ++each) {
        if (ahead.gone(each)) continue;
        const Vec2 here = ahead.placement(each, ahead.now()).at;
        hold({here.x - 1, here.x + 1, std::min(here.y, scene_.ground) - 0.35, here.y + 1.1});
        pictures_of(ahead, each, [&](const Painted& painted) {
          World art = painted.seen;
          art.top += (art.top - art.bottom) * 0.08;  // for the name
          hold(art);
        });
      }
    }
    world_ = all.value_or(World{-1, 1, scene_.ground - 0.35, scene_.ground + 1.1});
  }

  // With its slash; empty for the current one.
  static std::string folder_of(const std::string& file) { return file.substr(0, file.rfind('/') + 1); }
  ArtStore& store(const std::string& file) {
    const std::string folder = folder_of(file);
    return stores_.try_emplace(folder, folder).first->second;
  }

  // A picture of an actor in the world, and the part of it that is not empty.
  struct Painted {
    const ArtStore::Picture& picture;
    World whole, seen;
    bool mirrored;
  };
  // Calls `paint` for what each region of an actor shows where `run` is.
  template <class Paint>
  void pictures_of(const SceneRun& run, std::size_t index, Paint paint) {
    const Instance& instance = run.instance(index);
    if (instance.done() || run.gone(index)) return;
    const Machine& machine = instance.machine();
    const Placement place = run.placement(index, run.now());
    const double size = place.scale / machine.unit();
    for (std::uint16_t region = 0; region < instance.region_count(); ++region) {
      const Shown shown = instance.shown(region);
      if (shown.nothing() || shown.frame < 0) continue;
      const ClipInfo& clip = machine.clips()[shown.clip];
      FrameArt art = clip.def.frames[static_cast<std::size_t>(shown.frame)].art;
      if (art.source.empty()) continue;
      if (const std::uint16_t look = instance.look(); look != kNoIndex)
        for (const auto& [from, to] : machine.looks()[look].art)
          if (art.source == from) {
            art.source = to;
            break;
          }
      const std::string& file = run.actor(index).file;
      const auto picture = store(file).find(art);
      if (!picture) {
        if (told_.insert(picture.error().message).second) messages.push_back(picture.error().message);
        continue;
      }
      const PixelRect& rect = picture->rect;
      const auto pivot = pivot_on_cut(art, rect, clip.pivot_of(shown.frame));
      const bool mirrored = place.faces_left != shown.mirrored;
      const auto in_world = [&](const PixelRect& part) {
        const double begin = part.x - pivot.first, end = begin + part.width;
        return World{place.at.x + (mirrored ? -end : begin) * size, place.at.x + (mirrored ? -begin : end) * size,
                     place.at.y + (pivot.second - part.y - part.height) * size,
                     place.at.y + (pivot.second - part.y) * size};
      };
      auto [part, fresh] = seen_.try_emplace({folder_of(file) + art.source, art.tile, rect.x, rect.y});
      if (fresh) part->second = not_empty(*picture);
      const World nothing{place.at.x, place.at.x, place.at.y, place.at.y};
      paint(Painted{*picture, in_world({0, 0, rect.width, rect.height}),
                    part->second.width == 0 ? nothing : in_world(part->second), mirrored});
    }
  }

  void draw_actor(Canvas& canvas, std::size_t index) {
    pictures_of(run_, index, [&](const Painted& painted) {
      const World& to = painted.whole;
      const double left = to_x(to.left), wide = to_x(to.right) - left;
      canvas.image(*painted.picture.image, painted.picture.rect,
                   {left, to_y(to.top), painted.mirrored ? -wide : wide, to_y(to.bottom) - to_y(to.top)});
      top_of_art_ = std::min(top_of_art_, to_y(painted.seen.top));
    });
  }

  // The smallest part of a frame, from its own left and top, that holds whatever can be seen of it.
  static PixelRect not_empty(const ArtStore::Picture& picture) {
    const PixelRect& rect = picture.rect;
    std::int32_t left = rect.width, right = 0, top = rect.height, bottom = 0;
    for (std::int32_t y = 0; y < rect.height; ++y)
      for (std::int32_t x = 0; x < rect.width; ++x) {
        const auto row = static_cast<std::size_t>(rect.y + y), column = static_cast<std::size_t>(rect.x + x);
        if (picture.image->rgba[4 * (row * static_cast<std::size_t>(picture.image->width) + column) + 3] == 0) continue;
        left = std::min(left, x), right = std::max(right, x + 1);
        top = std::min(top, y), bottom = y + 1;
      }
    return right == 0 ? PixelRect{} : PixelRect{left, top, right - left, bottom - top};
  }

  void draw_shape(Canvas& canvas, const WorldShape& shape, Color color, double fill) {
    const double px = unit_ * scale_;
    if (shape.is_circle())
      canvas.circle(to_x(shape.middle.x), to_y(shape.middle.y), shape.radius * px, color.faded(fill), color, 1.5);
    else {
      const Box box{to_x(shape.middle.x - shape.half_width), to_y(shape.middle.y + shape.half_height),
                    2 * shape.half_width * px, 2 * shape.half_height * px};
      canvas.fill(box, color.faded(fill));
      canvas.frame(box, color, 1.5);
    }
  }

  // As lines: a cone by its edges and its arc.
  void draw_reach(Canvas& canvas, const Reaching& reaching) {
    if (const auto* cone = std::get_if<ConeShape>(&reaching.reach->shape)) {
      const double half = cone->angle / 2 * 3.14159265358979323846 / 180;
      const auto at = [&](double angle, double far) {
        return to_world(Vec2{cone->x + far * std::cos(angle), cone->y + far * std::sin(angle)}, reaching.from,
                        reaching.unit);
      };
      Vec2 before = at(0, 0);
      for (int i = 0; i <= 24; ++i) {
        const Vec2 next = at(-half + 2 * half * i / 24, cone->length);
        canvas.line(to_x(before.x), to_y(before.y), to_x(next.x), to_y(next.y), kWrong, 1.5);
        before = next;
      }
      const Vec2 tip = at(0, 0);
      canvas.line(to_x(before.x), to_y(before.y), to_x(tip.x), to_y(tip.y), kWrong, 1.5);
      return;
    }
    draw_shape(canvas, to_world(reaching.reach->shape, reaching.from, reaching.unit), kWrong, 0.08);
  }

  void draw_shapes(Canvas& canvas, std::size_t index) {
    const Instance& instance = run_.instance(index);
    if (instance.done() || run_.gone(index)) return;
    const Machine& machine = instance.machine();
    const Placement place = run_.placement(index, run_.now());
    for (const ZoneInfo& zone : machine.zones())
      draw_shape(canvas, to_world(zone.def.shape, place, machine.unit()), kWindow, 0.06);
    std::array<ActiveBox, 64> all;
    if (!run_.alive(index)) return;  // the dead neither hit nor are hit
    const std::size_t count = std::min(boxes(instance, place, all), all.size());
    for (std::size_t i = 0; i < count; ++i) {
      draw_shape(canvas, all[i].shape, color_of_role(all[i].box->role.text), 0.15);
    }
  }

  // Name and state above the figure; names of those who stand together are put above each other.
  void draw_name(Canvas& canvas, std::size_t index, double top) {
    const Instance& instance = run_.instance(index);
    if (instance.done() || run_.gone(index)) return;
    const Machine& machine = instance.machine();
    std::string state;
    for (std::uint16_t region = 0; region < instance.region_count() && state.empty(); ++region)
      if (const std::uint16_t leaf = instance.active(region); leaf != kNoIndex) state = machine.states()[leaf].path;
    const std::string text = run_.actor(index).name.text + ": " + state;
    const double wide = canvas.text_width(text, {kSmall - 1, true, kInk});
    const Placement place = run_.placement(index, run_.now());
    const double left = std::clamp(to_x(place.at.x) - wide / 2, x_ + 3, std::max(x_ + 3, x_ + width_ - wide - 3));
    // The nearest free place: upwards, then downwards.
    const double wanted = std::clamp(top - 17, y_ + 2, y_ + height_ - 16);
    double at = wanted;
    const auto free = [&](double y) {
      return y >= y_ + 2 && y <= y_ + height_ - 16 &&
             std::none_of(labels_.begin(), labels_.end(), [&](const Box& other) {
               return left < other.x + other.width + 6 && other.x < left + wide + 6 && std::abs(y - other.y) < 15;
             });
    };
    for (int away = 0; away < 60; ++away) {
      const double up = wanted - 5 * away, down = wanted + 5 * away;
      if (free(up) || free(down)) {
        at = free(up) ? up : down;
        break;
      }
    }
    labels_.push_back({left, at, wide, 14});
    canvas.fill({left - 2, at, wide + 4, 14}, kPaper.faded(0.7));
    canvas.text(left, at, text, {kSmall - 1, true, kInk});
  }

  const Scene& scene_;
  StageOptions options_;
  SceneRun run_;
  World world_;
  double unit_ = 1, scale_ = 1, width_ = 0, height_ = 0, x_ = 0, y_ = 0;
  std::size_t columns_ = 1;
  std::map<std::string, ArtStore> stores_;
  std::set<std::string> told_;
  std::map<std::tuple<std::string, std::string, std::int32_t, std::int32_t>, PixelRect> seen_;  // of frames
  std::vector<SceneRecord> hits_;
  std::vector<Reaching> reaches_;
  std::vector<Box> labels_;
  double top_of_art_ = 0;
};

}  // namespace

Result<std::vector<std::string>> draw_stage(const Scene& scene, const std::vector<Ticks>& instants,
                                            const StageOptions& options, const std::string& path) {
  Stage stage(scene, options, instants.size());
  const std::size_t rows = (instants.size() + stage.columns() - 1) / stage.columns();
  const double width = kStageMargin + static_cast<double>(stage.columns()) * (stage.width() + kStageMargin);
  const double height = kStageMargin + static_cast<double>(rows) * (stage.height() + kCaption + kStageMargin);
  if (width > 30'000 || height > 30'000) return Error{"the picture would be too large; use a smaller --zoom", ""};
  Canvas canvas(static_cast<int>(width), static_cast<int>(height), options.dark);
  for (std::size_t i = 0; i < instants.size(); ++i) {
    const double x = kStageMargin + static_cast<double>(i % stage.columns()) * (stage.width() + kStageMargin);
    const std::size_t row = i / stage.columns();
    const double y = kStageMargin + static_cast<double>(row) * (stage.height() + kCaption + kStageMargin);
    stage.draw(canvas, instants[i], x, y + kCaption);
    canvas.text(x, y, seconds_text(instants[i]), {kNormal, true, kInk});
  }
  if (const Outcome written = canvas.write(path); !written) return written.error();
  return std::move(stage.messages);
}

Result<std::vector<std::string>> draw_film(const Scene& scene, int fps, const StageOptions& options,
                                           const std::string& path) {
  StageOptions smaller = options;
  Stage stage(scene, smaller, 2);  // half the width of a page
  const double seconds = scene.until.to_seconds();
  const int count = static_cast<int>(seconds * fps) + 1;
  if (count > 3000) return Error{"the film would have " + std::to_string(count) + " pictures; use fewer a second", ""};
  std::vector<Image> frames;
  for (int i = 0; i < count; ++i) {
    Canvas canvas(static_cast<int>(stage.width()), static_cast<int>(stage.height()), options.dark);
    stage.draw(canvas, Ticks(kTicksPerSecond * i / fps), 0, 0);
    const std::string clock = detail::fixed_text(static_cast<double>(i) / fps, 2) + " s";
    const double wide = canvas.text_width(clock, {kSmall, true, kInk});
    canvas.fill({stage.width() - wide - 12, stage.height() - 20, wide + 8, 16}, kPaper.faded(0.7));
    canvas.text(stage.width() - wide - 8, stage.height() - 19, clock, {kSmall, true, kInk});
    frames.push_back(canvas.pixels());
  }
  if (const Outcome written = write_apng(frames, {1, fps}, path); !written) return written.error();
  return std::move(stage.messages);
}

}  // namespace mobrin
