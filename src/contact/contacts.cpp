// Who hits whom.
#include "mobrin/contact/contacts.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "hair.hpp"

namespace mobrin {
namespace {

constexpr std::int64_t kMostCells = 4096;  // of one box; a larger one is held against all

struct Extent {
  double left, right, bottom, top;
};

Extent extent(const WorldShape& shape, Vec2 way) {
  const double more = detail::hair(shape) + detail::kHairOfATick * (std::abs(way.x) + std::abs(way.y));
  return {shape.middle.x - shape.half_width + std::min(0.0, way.x) - more,
          shape.middle.x + shape.half_width + std::max(0.0, way.x) + more,
          shape.middle.y - shape.half_height + std::min(0.0, way.y) - more,
          shape.middle.y + shape.half_height + std::max(0.0, way.y) + more};
}

std::int64_t cell(double value, double size) {
  return static_cast<std::int64_t>(std::floor(std::clamp(value / size, -1e9, 1e9)));
}
std::size_t bucket_of(std::int64_t x, std::int64_t y) {
  const std::uint64_t mixed =
      static_cast<std::uint64_t>(x) * 0x9e3779b97f4a7c15u + static_cast<std::uint64_t>(y) * 0xc2b2ae3d27d4eb4fu;
  return static_cast<std::size_t>(mixed ^ mixed >> 29 ^ mixed >> 47);
}

}  // namespace

void Contacts::begin(Ticks from, Ticks to) {
  missed_.clear();
  go_on(from, to);
}

void Contacts::go_on(Ticks from, Ticks to) {
  from_ = from;
  to_ = to;
  who_.clear();
  died_.clear();
  hits_.clear();
  hurts_.clear();
  pairs_.clear();
}

std::size_t Contacts::join(const Participant& who) {
  if (!is_sound(who.from) || !is_sound(who.to)) return kNobody;
  who_.push_back(who);
  died_.push_back(who.alive ? Ticks(std::numeric_limits<std::int64_t>::max()) : Ticks(-1));
  return who_.size() - 1;
}

void Contacts::hear(std::uint32_t id, const Machine& machine, const Cue& cue) {
  const bool enters = cue.what == Told::enter && !machine.states()[cue.state].has_children;
  const bool strikes = cue.what == Told::cue && cue.edge != Edge::end && cue.kind() == "damage";
  if ((!enters && !strikes) || cue.state == kNoIndex) return;
  ++swings_of(id, machine.states()[cue.state].region).number;
}

// Where a participant's region has its swings, or would have them.
detail::List<Contacts::Swings>::iterator Contacts::place_of(std::uint64_t of) {
  return std::lower_bound(swings_.begin(), swings_.end(), of,
                          [](const Swings& each, std::uint64_t wanted) { return each.of < wanted; });
}

Contacts::Swings& Contacts::swings_of(std::uint32_t id, std::uint16_t region) {
  const std::uint64_t of = std::uint64_t{id} << 16 | region;
  auto at = place_of(of);
  if (at == swings_.end() || at->of != of) at = swings_.insert(at, {of, to_, 0});
  at->seen = to_;
  return *at;
}

Placement Contacts::placed(const Participant& who, Ticks at) const {
  if (from_ >= to_ || at >= to_) return who.to;
  const double part = static_cast<double>((at - from_).count) / static_cast<double>((to_ - from_).count);
  Placement out = who.to;
  out.at = {who.from.at.x + (who.to.at.x - who.from.at.x) * part, who.from.at.y + (who.to.at.y - who.from.at.y) * part};
  return out;
}

const TagFilter& Contacts::filter_of(const Machine& machine, const ActiveBox& active) {
  const auto place = static_cast<std::uint64_t>(active.box - machine.clips()[active.clip].marks.boxes.data());
  const std::uint64_t box = std::uint64_t{machine.serial()} << 32 | std::uint64_t{active.clip} << 16 | place;
  auto at = std::lower_bound(filters_.begin(), filters_.end(), box,
                             [](const BoxFilter& each, std::uint64_t wanted) { return each.box < wanted; });
  if (at == filters_.end() || at->box != box)
    at = filters_.insert(at, {box, tags_->filter(active.box->hits, active.box->spares)});
  return at->filter;
}

void Contacts::take(std::size_t index, const Instance& instance, Ticks begin, Ticks end) {
  if (index == kNobody) return;
  const Machine& machine = instance.machine();
  std::size_t count = boxes(instance, Placement{}, shown_boxes_);
  if (count > shown_boxes_.size()) {
    shown_boxes_.resize(count);
    count = boxes(instance, Placement{}, shown_boxes_);
  }
  const auto& all = shown_boxes_;
  for (std::size_t i = 0; i < count; ++i) {
    const BoxDef& box = *all[i].box;
    const bool hits = box.role.text == "hit";
    if (!hits && box.role.text != "hurt") continue;
    Noted noted;
    noted.begin = begin;
    noted.end = end;
    noted.box = &box;
    if (hits) {
      noted.filter = filter_of(machine, all[i]);
      noted.every = box.every;
      noted.swing = std::uint64_t{all[i].region} << 32 | swings_of(who_[index].id, all[i].region).number;
    }
    note(index, noted, box.shape, machine.unit(), instance.shown(all[i].region).mirrored, hits);
  }
}

void Contacts::note(std::size_t index, Noted box, const Shape& shape, double unit, bool mirrored, bool hits) {
  Placement first = placed(who_[index], box.begin), last = placed(who_[index], box.end);
  first.faces_left = first.faces_left != mirrored;
  last.faces_left = first.faces_left;
  box.who = static_cast<std::uint32_t>(index);
  box.at_begin = to_world(shape, first, unit);
  box.way = {last.at.x - first.at.x, last.at.y - first.at.y};
  (hits ? hits_ : hurts_).push_back(box);
}

bool Contacts::add(const Participant& who, std::span<const PlainBox> boxes) {
  for (const PlainBox& box : boxes) {
    const WorldShape shape = to_world(box.shape, {}, box.unit);
    const auto fits = [](double value) { return value >= -kFarthest && value <= kFarthest; };
    const bool sized = shape.half_width > 0 && shape.half_height > 0;
    if (std::holds_alternative<ConeShape>(box.shape) || !(box.unit > 0) || !sized || !fits(shape.half_width) ||
        !fits(shape.half_height) || !fits(shape.middle.x) || !fits(shape.middle.y))
      return false;
  }
  const std::size_t index = join(who);
  if (index == kNobody) return false;
  for (const PlainBox& box : boxes) {
    Noted noted;
    noted.begin = from_;
    noted.end = to_;
    noted.filter = {box.only, box.spares, box.only == 0};
    noted.every = box.every;
    noted.swing = std::uint64_t{0xffff} << 32 | box.swing;
    note(index, noted, box.shape, box.unit, false, box.hits);
  }
  return true;
}

// --- pairs ----------------------------------------------------------------------------------------------------------

bool Contacts::before(const Pair& a, const Pair& b) const {
  const auto id = [&](const detail::List<Noted>& all, std::uint32_t index) { return who_[all[index].who].id; };
  if (a.at != b.at) return a.at < b.at;
  if (id(hits_, a.by) != id(hits_, b.by)) return id(hits_, a.by) < id(hits_, b.by);
  if (detail::rank(a.distance) != detail::rank(b.distance)) return a.distance < b.distance;
  if (id(hurts_, a.on) != id(hurts_, b.on)) return id(hurts_, a.on) < id(hurts_, b.on);
  return std::pair(a.by, a.on) < std::pair(b.by, b.on);
}

void Contacts::look_at(std::uint32_t by, std::uint32_t on) {
  const Noted &hit = hits_[by], &hurt = hurts_[on];
  const Participant &attacker = who_[hit.who], &target = who_[hurt.who];
  if (attacker.id == target.id || !attacker.alive || !target.alive) return;
  if (!hit.filter.takes(target.tags)) return;
  const Ticks begin = std::max(hit.begin, hurt.begin), end = std::min(hit.end, hurt.end);
  if (begin > end) return;
  // Most are not even near.
  const Extent here = extent(hit.at_begin, hit.way), there = extent(hurt.at_begin, hurt.way);
  if (here.left > there.right || there.left > here.right || here.bottom > there.top || there.bottom > here.top) return;
  // Both as they are at `begin`, and how the target moves against the attacker until `end`.
  const auto part = [](const Noted& box, Ticks at) {
    return box.end > box.begin
               ? static_cast<double>((at - box.begin).count) / static_cast<double>((box.end - box.begin).count)
               : 0.0;
  };
  const auto at = [&](const Noted& box, double way) {
    WorldShape out = box.at_begin;
    out.middle.x += box.way.x * way;
    out.middle.y += box.way.y * way;
    return out;
  };
  const double hit_from = part(hit, begin), hit_to = part(hit, end), hurt_from = part(hurt, begin),
               hurt_to = part(hurt, end);
  const WorldShape first = at(hit, hit_from), second = at(hurt, hurt_from);
  const double hair = detail::hair(first) + detail::hair(second);
  const auto moved = [](const Noted& box, double way) { return Vec2{box.way.x * way, box.way.y * way}; };
  const Vec2 way = detail::way_between(moved(hurt, hurt_to - hurt_from), moved(hit, hit_to - hit_from), hair);
  const bool moves = way.x != 0 || way.y != 0;
  const double reach = moves ? 1 + detail::kHairOfATick / static_cast<double>((end - begin).count) : 1;
  const auto met = detail::grazing_of(first, second, {way.x * reach, way.y * reach}, hair);
  if (!met) return;
  Pair pair{{}, detail::first_tick(begin, end, met->end * reach), by, on};
  move_to(pair, detail::first_tick(begin, end, met->begin * reach));
  pairs_.push_back(pair);
}

// With how far apart both are then, by which those of one instant are in order.
void Contacts::move_to(Pair& pair, Ticks at) const {
  const Vec2 a = placed(who_[hits_[pair.by].who], at).at, b = placed(who_[hurts_[pair.on].who], at).at;
  pair.at = at;
  pair.distance = std::sqrt((a.x - b.x) * (a.x - b.x) + (a.y - b.y) * (a.y - b.y));
}

// A uniform grid with cells somewhat larger than the boxes; each box that can be hit stands in all cells it passes.
// Cells share a table of buckets; what only shares a bucket is sorted out by look_at.
void Contacts::find_pairs() {
  if (hits_.empty() || hurts_.empty()) return;
  double sum = 0;
  for (const Noted& hurt : hurts_) {
    const Extent e = extent(hurt.at_begin, hurt.way);
    sum += std::max(e.right - e.left, e.top - e.bottom);
  }
  const double size = std::max(2 * sum / static_cast<double>(hurts_.size()), 1e-6);
  std::size_t buckets = 64;
  while (buckets < 2 * hurts_.size()) buckets *= 2;
  const auto cells_of = [&](const Noted& box, const auto& visit) {
    const Extent e = extent(box.at_begin, box.way);
    const std::int64_t left = cell(e.left, size), right = cell(e.right, size), bottom = cell(e.bottom, size),
                       top = cell(e.top, size);
    if ((right - left + 1) * (top - bottom + 1) > kMostCells) return false;
    for (std::int64_t x = left; x <= right; ++x)
      for (std::int64_t y = bottom; y <= top; ++y) visit(bucket_of(x, y) & (buckets - 1));
    return true;
  };
  // How many stand in each bucket, where each bucket begins, who stands there.
  starts_.assign(buckets + 1, 0);
  large_.clear();
  for (std::uint32_t i = 0; i < hurts_.size(); ++i)
    if (!cells_of(hurts_[i], [&](std::size_t bucket) { ++starts_[bucket + 1]; })) large_.push_back(i);
  for (std::size_t b = 0; b < buckets; ++b) starts_[b + 1] += starts_[b];
  standing_.resize(starts_[buckets]);
  filled_.assign(starts_.begin(), starts_.end() - 1);
  for (std::uint32_t i = 0; i < hurts_.size(); ++i)
    cells_of(hurts_[i], [&](std::size_t bucket) { standing_[filled_[bucket]++] = i; });
  looked_at_.assign(hurts_.size(), 0);
  for (std::uint32_t h = 0; h < hits_.size(); ++h) {
    const bool small = cells_of(hits_[h], [&](std::size_t bucket) {
      for (std::uint32_t at = starts_[bucket]; at < starts_[bucket + 1]; ++at) {
        const std::uint32_t i = standing_[at];
        if (looked_at_[i] == h + 1) continue;
        looked_at_[i] = h + 1;
        look_at(h, i);
      }
    });
    if (small)
      for (const std::uint32_t i : large_) look_at(h, i);
    else
      for (std::uint32_t i = 0; i < hurts_.size(); ++i) look_at(h, i);
  }
}

void Contacts::gather() {
  pairs_.clear();
  find_pairs();
  std::make_heap(pairs_.begin(), pairs_.end(), [&](const Pair& a, const Pair& b) { return before(b, a); });
  if (swings_.size() > 64 + 4 * who_.size())
    forget_the_gone();
  else if (last_.size() > 256 + 4 * who_.size())
    forget_old_swings();
}

void Contacts::forget_the_gone() {
  // With whom their swings have hit: they are counted from the first again, should the id come back.
  if (std::erase_if(swings_, [&](const Swings& each) { return each.seen + kForgotten < to_; }) > 0) forget_old_swings();
}

// What neither is the swing of a machine's region nor stands among this step's plain boxes is over.
void Contacts::forget_old_swings() {
  std::erase_if(last_, [&](const auto& entry) {
    const auto id = static_cast<std::uint32_t>(entry.first.by >> 32);
    const std::uint64_t of = std::uint64_t{id} << 16 | entry.first.swing >> 32;
    const auto swing = place_of(of);
    if (swing != swings_.end() && swing->of == of)
      return swing->number != static_cast<std::uint32_t>(entry.first.swing);
    return std::none_of(hits_.begin(), hits_.end(),
                        [&](const Noted& hit) { return hit.swing == entry.first.swing && who_[hit.who].id == id; });
  });
}

Contacts::Key Contacts::key_of(const Pair& pair) const {
  const Noted &hit = hits_[pair.by], &hurt = hurts_[pair.on];
  return {std::uint64_t{who_[hit.who].id} << 32 | who_[hurt.who].id, hit.swing};
}

Contacts::Missed Contacts::missed_of(const Pair& pair) const {
  return {key_of(pair), hits_[pair.by].box, hurts_[pair.on].box};
}

detail::List<std::pair<Contacts::Key, Ticks>>::iterator Contacts::remembered(const Key& key) {
  return std::lower_bound(last_.begin(), last_.end(), key,
                          [](const auto& entry, const Key& wanted) { return entry.first < wanted; });
}

const Hit* Contacts::next() {
  const auto later = [&](const Pair& a, const Pair& b) { return before(b, a); };
  while (!pairs_.empty()) {
    std::pop_heap(pairs_.begin(), pairs_.end(), later);
    Pair pair = pairs_.back();
    pairs_.pop_back();
    const Noted &hit = hits_[pair.by], &hurt = hurts_[pair.on];
    if (died_[hit.who] < pair.at || died_[hurt.who] < pair.at) continue;
    const Participant &attacker = who_[hit.who], &target = who_[hurt.who];
    if (std::find(missed_.begin(), missed_.end(), missed_of(pair)) != missed_.end()) continue;
    const Key key = key_of(pair);
    const auto last = remembered(key);
    if (last != last_.end() && last->first == key) {
      if (hit.every.count <= 0) continue;
      const Ticks again = last->second + hit.every;
      if (again > pair.until) continue;
      if (again > pair.at) {  // its turn comes later
        move_to(pair, again);
        pairs_.push_back(pair);
        std::push_heap(pairs_.begin(), pairs_.end(), later);
        continue;
      }
    }
    current_ = pair;
    const auto middle = [&](const Noted& box) {
      const double part = box.end > box.begin ? static_cast<double>((pair.at - box.begin).count) /
                                                    static_cast<double>((box.end - box.begin).count)
                                              : 0;
      return Vec2{box.at_begin.middle.x + box.way.x * part, box.at_begin.middle.y + box.way.y * part};
    };
    const Vec2 a = middle(hit), b = middle(hurt);
    hit_ = {pair.at, attacker.id, target.id, hit.box, hurt.box, pair.distance, {(a.x + b.x) / 2, (a.y + b.y) / 2}};
    return &hit_;
  }
  return nullptr;
}

void Contacts::settle(HitAnswer answer) {
  if (answer == HitAnswer::misses) return missed_.push_back(missed_of(current_));
  const Noted &hit = hits_[current_.by], &hurt = hurts_[current_.on];
  const Key key = key_of(current_);
  const auto last = remembered(key);
  if (last != last_.end() && last->first == key)
    last->second = current_.at;
  else
    last_.insert(last, {key, current_.at});
  if (answer == HitAnswer::dies) died_[hurt.who] = current_.at;
  if (hit.every.count <= 0) return;
  Pair again = current_;
  move_to(again, current_.at + hit.every);
  if (again.at > again.until) return;
  pairs_.push_back(again);
  std::push_heap(pairs_.begin(), pairs_.end(), [&](const Pair& a, const Pair& b) { return before(b, a); });
}

bool Contacts::first_instant(Ticks& at) {
  gather();
  const Hit* hit = next();
  if (hit != nullptr) at = hit->at;
  return hit != nullptr;
}

}  // namespace mobrin
