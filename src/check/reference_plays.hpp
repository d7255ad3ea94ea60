// What the reference evaluator plays: the places of a play, what is told on passing them, speeds.
#pragma once

#include "reference_state.hpp"

namespace mobrin::check {

class ReferencePlays : protected ReferenceState {
 protected:
  using ReferenceState::ReferenceState;

  // --- plays ------------------------------------------------------------------------------------------------------
  [[nodiscard]] Big effective(const Play& play) const {
    if (rate_ == 65536) return play.speed;
    const Big product = Big{play.speed} * rate_;
    Big down = product / 65536;
    if (product % 65536 < 0) down -= 1;
    const Big rest = product - down * 65536;
    if (rest * 2 > 65536 || (rest * 2 == 65536 && down % 2 != 0)) down += 1;
    return down;
  }
  // Every place of the cycle where something may lie for this play.
  std::set<Big> places(const Node& leaf, const Play& play) {
    std::set<Big> out{0, play.film.cycle};
    const auto& showings = play.film.showings;
    for (const Pass& pass : play.film.passes_of_clips)
      for (const MarkDef& mark : pass.marks->marks)
        if (mark.at == MarkAt::time)
          for (const auto& [place, back] : pass.places_of(Big{mark.time.count} << 16))
            if (goes(mark, play.backward != back)) out.insert(place);
    for (const Showing& each : showings) {
      const Pass& pass = play.pass_of(each);
      for (const MarkDef& mark : pass.marks->marks) {
        // A frame's begin and end as playing reaches them; of a span only where play comes into it or out of it.
        const Big begin = play.backward ? each.end : each.begin, end = play.backward ? each.begin : each.end;
        const bool way = goes(mark, play.backward != each.back);
        if (mark.at == MarkAt::frame_begin && mark.frame == each.frame && way) out.insert(begin);
        if (mark.at == MarkAt::frame_end && mark.frame == each.frame && way) out.insert(end);
        if (!is_span(mark.at)) continue;
        std::set<Big> edges{each.begin, each.end};
        for (const Ticks time : {mark.time, mark.until})
          for (const auto& [place, back] : pass.places_of(Big{time.count} << 16)) edges.insert(place);
        for (const Big edge : edges)
          if (covers(pass.clip, mark, play.film, seen_at(play.film, edge, true)) !=
              covers(pass.clip, mark, play.film, seen_at(play.film, edge, false)))
            out.insert(edge);
      }
    }
    for (const Company& other : company_of(leaf, play))
      for (const MarkDef& mark : other.film.passes_of_clips.front().marks->marks)
        for (const Telling& telling : tellings(other.film, mark, play.backward))
          out.insert(other.place(telling.at, play));
    for (const Node* node = &leaf; node != nullptr; node = node->parent) {
      if (node->def == nullptr) continue;
      for (const GoDef& go : node->def->go) {
        for (const Pass& pass : play.film.passes_of_clips)
          for (const StretchDef& stretch : stretches_of(go, pass))
            if (stretch.timed)
              for (const Ticks time : {stretch.begin, stretch.end})
                for (const auto& [place, back] : pass.places_of(Big{time.count} << 16)) out.insert(place);
        for (const Showing& each : showings)
          for (const Showing& other : showings)
            if (other.begin == each.end && in_frames(go, play, each) != in_frames(go, play, other))
              out.insert(other.begin);
      }
    }
    return out;
  }
  static std::vector<StretchDef> stretches_of(const GoDef& go, const Pass& pass) {
    if (go.during_stretch) return {*go.during_stretch};
    for (const WindowDef& window : pass.marks->windows)
      if (!go.during.empty() && window.name.text == go.during.text) return window.stretches;
    return {};
  }
  // For each stretch of frames of a transition's window, whether it holds what is shown; several are told apart.
  static std::vector<std::pair<const ClipDef*, std::size_t>> in_frames(const GoDef& go, const Play& play,
                                                                       const Showing& showing) {
    std::vector<std::pair<const ClipDef*, std::size_t>> out;
    const Pass& pass = play.pass_of(showing);
    const auto stretches = stretches_of(go, pass);
    for (std::size_t i = 0; i < stretches.size(); ++i)
      if (!stretches[i].timed && showing.frame >= 0 && showing.frame >= stretches[i].first &&
          showing.frame <= stretches[i].last)
        out.emplace_back(pass.clip, i);
    return out;
  }

  [[nodiscard]] const ClipDef& clip_of_pose(const Node& leaf) {
    const std::string name = pose_clip(leaf);
    return *std::find_if(def_.clips.begin(), def_.clips.end(), [&](const ClipDef& c) { return c.name.text == name; });
  }
  [[nodiscard]] std::string pose_clip(const Node& leaf) {
    if (leaf.def->clip_by)
      for (const auto& [choice, name] : leaf.def->clip_by->clips)
        if (choice.text == chosen_[&leaf]) return name.text;
    return leaf.def->clip.text;
  }
  // A pose stands in windows of frames that hold its frame, or, without frames, in those of times that hold its time.
  bool open_pose(const GoDef& go, const Node& leaf) {
    if (!leaf.def->pose) return false;
    const ClipDef& clip = clip_of_pose(leaf);
    const auto holds = [&](const StretchDef& s) {
      if (!clip.frames.empty()) return !s.timed && s.first <= *leaf.def->pose && *leaf.def->pose <= s.last;
      const Ticks time = leaf.def->pose_time;
      return s.timed && s.begin <= time && (time < s.end || (time == s.end && s.end == clip.length));
    };
    if (go.during_stretch) return holds(*go.during_stretch);
    for (const ClipMarksDef& marks : def_.marks) {
      if (marks.clip.text != pose_clip(leaf)) continue;
      for (const WindowDef& window : marks.windows)
        if (window.name.text == go.during.text)
          return std::any_of(window.stretches.begin(), window.stretches.end(), holds);
    }
    return false;
  }
  static bool open(const GoDef& go, const Play& play) {
    const Showing& shown = showing_of(play);
    if (!in_frames(go, play, shown).empty()) return true;
    const Pass& pass = play.pass_of(shown);
    const bool down = play.backward != shown.back;
    const Big here = play.at - pass.begin;
    const Big time = shown.back ? pass.turn - (here - pass.length) : here;
    for (const StretchDef& stretch : stretches_of(go, pass)) {
      const Big begin = Big{stretch.begin.count} << 16, end = Big{stretch.end.count} << 16;
      if (stretch.timed && (down ? (begin < time && time <= end) || (begin == 0 && time == 0)
                                 : (begin <= time && time < end) || (time == end && end == pass.length)))
        return true;
    }
    return false;
  }

  // --- blends -----------------------------------------------------------------------------------------------------
  // The weights of a blend's points, from the formula in docs/blending.md.
  [[nodiscard]] std::vector<double> weights_of(const Node& leaf) {
    const BlendDef& blend = *leaf.def->blend;
    const double x = compute_at(leaf, blend.x.text), y = blend.y.empty() ? 0 : compute_at(leaf, blend.y.text);
    const auto& points = blend.points;
    std::vector<double> out(points.size(), 1);
    double sum = 0;
    for (std::size_t i = 0; i < points.size(); ++i) {
      for (const BlendPointDef& other : points) {
        if (&other == &points[i]) continue;
        const double dx = other.x - points[i].x, dy = other.y - points[i].y;
        const double along = ((x - points[i].x) * dx + (y - points[i].y) * dy) / (dx * dx + dy * dy);
        out[i] = std::min(out[i], std::max(0.0, std::min(1.0, 1 - along)));
      }
      sum += out[i];
    }
    const auto far = [&](const BlendPointDef& p) { return (p.x - x) * (p.x - x) + (p.y - y) * (p.y - y); };
    const auto nearest =
        std::min_element(points.begin(), points.end(), [&](auto& a, auto& b) { return far(a) < far(b); });
    for (std::size_t i = 0; i < points.size(); ++i) {
      const double share = sum > 0 ? out[i] / sum : &*nearest == &points[i] ? 1 : 0;
      out[i] = blend.floor + (1 - blend.floor * static_cast<double>(points.size())) * share;
    }
    return out;
  }
  [[nodiscard]] std::size_t heaviest_of(const Node& leaf) {
    const std::vector<double> weights = weights_of(leaf);
    return static_cast<std::size_t>(std::max_element(weights.begin(), weights.end()) - weights.begin());
  }
  // Another clip of the blend that is played, in phase with it.
  struct Company {
    std::string clip;
    Film film;
    // Where on the heaviest clip's cycle it is when this one is at `at`: a whole tick, rounded up.
    [[nodiscard]] Big place(Big at, const Play& play) const {
      const Big mine = film.cycle >> 16, its = play.film.cycle >> 16;
      return (((at >> 16) * its + mine - 1) / mine) << 16;
    }
  };
  std::vector<Company> company_of(const Node& leaf, const Play& play) {
    std::vector<Company> out;
    if (!leaf.def->blend || !leaf.def->blend->cues_above) return out;
    for (std::size_t i = 0; i < leaf.def->blend->points.size(); ++i) {
      const std::string& clip = leaf.def->blend->points[i].clip.text;
      const bool known = std::any_of(out.begin(), out.end(), [&](const Company& each) { return each.clip == clip; });
      if (known || clip == play.film.passes_of_clips.front().clip->name.text) continue;
      out.push_back({clip, *film_of(def_, *leaf.def, std::to_string(i))});
    }
    return out;
  }
  [[nodiscard]] double weight_of(const Node& leaf, const std::string& clip) {
    double sum = 0;
    const std::vector<double> weights = weights_of(leaf);
    for (std::size_t i = 0; i < weights.size(); ++i)
      if (leaf.def->blend->points[i].clip.text == clip) sum += weights[i];
    return sum;
  }
  // Where on its own cycle a looping clip tells a mark that is no span.
  struct Telling {
    Big at;
    int frame;
    bool of_end;
  };
  static std::vector<Telling> tellings(const Film& film, const MarkDef& mark, bool backward) {
    std::vector<Telling> out;
    if (!goes(mark, backward)) return out;
    if (mark.at == MarkAt::time) {
      Play there;
      there.film = film;
      there.at = Big{mark.time.count} << 16;
      there.backward = backward;
      out.push_back({there.at, frame_of(there), false});
    }
    for (const Showing& each : film.showings) {
      if (each.frame < 0 || each.frame != mark.frame) continue;
      if (mark.at == MarkAt::frame_begin) out.push_back({backward ? each.end : each.begin, each.frame, false});
      if (mark.at == MarkAt::frame_end) out.push_back({backward ? each.begin : each.end, each.frame, true});
    }
    return out;
  }
  // Tells what the blend's other clips tell where the heaviest one's playhead stands. Those of one clip at one place of
  // its own: ends first, then in the order of its marks.
  void pass_company(const Node& leaf, const Play& play, bool entered) {
    for (const Company& other : company_of(leaf, play)) {
      if (weight_of(leaf, other.clip) < *leaf.def->blend->cues_above) continue;
      std::map<Big, std::vector<std::pair<bool, std::pair<const MarkDef*, int>>>> told;
      for (const bool ends : {true, false})
        for (const MarkDef& mark : other.film.passes_of_clips.front().marks->marks)
          for (const Telling& telling : tellings(other.film, mark, play.backward))
            if (telling.of_end == ends && other.place(telling.at, play) == play.at && !(ends && entered))
              told[telling.at].push_back({ends, {&mark, telling.frame}});
      for (const auto& [at, marks] : told)
        for (const auto& [ends, mark] : marks) tell_cue(mark.first->cue.text, other.clip, mark.second, "none");
    }
  }

  // Tells what lies where the playhead stands, on passing it. `ends`: the play ends here, so its last frame stays.
  void pass(const Play& play, bool ends, bool fading) {
    const auto& showings = play.film.showings;
    // What stops and what starts being shown in playing direction; at an edge only one of them is on this side.
    const Showing* over = nullptr;
    const Showing* now_shown = nullptr;
    for (const Showing& each : showings) {
      if ((play.backward ? each.begin : each.end) == play.at && each.begin != each.end) over = &each;
      if ((play.backward ? each.end : each.begin) == play.at && each.begin != each.end) now_shown = &each;
    }
    const bool leading_edge = play.at == (play.backward ? 0 : play.film.cycle);
    const bool trailing_edge = play.at == (play.backward ? play.film.cycle : Big{0});
    const Seen next = seen_at(play.film, play.at, !play.backward);
    const Seen before = seen_at(play.film, play.at, play.backward);
    if (before.showing != nullptr && !trailing_edge) {
      const Pass& of = play.pass_of(*before.showing);
      for (const MarkDef& mark : of.marks->marks) {
        if (mark.at == MarkAt::frame_end && over != nullptr && mark.frame == over->frame &&
            goes(mark, play.backward != over->back))
          tell_cue(mark.cue.text, of.clip->name.text, over->frame, "none");
        if (covers(of.clip, mark, play.film, before) && !covers(of.clip, mark, play.film, next) && !ends && !fading)
          tell_cue(mark.cue.text, of.clip->name.text, before.showing->frame, "end");
      }
    }
    // Then the rest, of the pass that is left first.
    std::vector<std::size_t> order;
    for (std::size_t i = 0; i < play.film.passes_of_clips.size(); ++i)
      order.insert(play.backward ? order.begin() : order.end(), i);
    for (const std::size_t i : order) {
      const Pass& of = play.film.passes_of_clips[i];
      if (play.at < of.begin || play.at > of.begin + of.cycle) continue;
      for (const MarkDef& mark : of.marks->marks) {
        const bool shows = now_shown != nullptr && !leading_edge && now_shown->pass == i;
        if (mark.at == MarkAt::frame_begin && shows && mark.frame == now_shown->frame &&
            goes(mark, play.backward != now_shown->back))
          tell_cue(mark.cue.text, of.clip->name.text, now_shown->frame, "none");
        if (next.showing != nullptr && next.showing->pass == i && !leading_edge && !fading &&
            covers(of.clip, mark, play.film, next) && !covers(of.clip, mark, play.film, before))
          tell_cue(mark.cue.text, of.clip->name.text, next.showing->frame, "begin");
        if (mark.at != MarkAt::time) continue;
        for (const auto& [place, back] : of.places_of(Big{mark.time.count} << 16))
          if (place == play.at && goes(mark, play.backward != back))
            tell_cue(mark.cue.text, of.clip->name.text, frame_within(play, i), "none");
      }
    }
  }
  // The frame shown from here on, of those of one pass.
  static int frame_within(const Play& play, std::size_t pass) {
    const Showing* found = nullptr;
    for (const Showing& each : play.film.showings)
      if (each.pass == pass && (found == nullptr || (play.backward ? each.begin < play.at : each.begin <= play.at)))
        found = &each;
    return found->frame;
  }
  // Tells the spans that end and begin because what is shown changes from one play's to another's. Either may be none.
  void diff_spans(const Play* from, const Play* to) {
    const Seen old = from != nullptr ? seen_of(*from) : Seen{};
    const Seen fresh = to != nullptr ? seen_of(*to) : Seen{};
    const auto tell_those = [&](const Play* here, const Seen& shown, const Play* there, const Seen& other,
                                const char* edge) {
      if (here == nullptr) return;
      const Pass& pass = here->pass_of(*shown.showing);
      for (const MarkDef& mark : pass.marks->marks)
        if (covers(pass.clip, mark, here->film, shown) &&
            !(there != nullptr && covers(pass.clip, mark, there->film, other)))
          tell_cue(mark.cue.text, pass.clip->name.text, shown.showing->frame, edge);
    };
    tell_those(from, old, to, fresh, "end");
    tell_those(to, fresh, from, old, "begin");
  }
  // A playhead on the edge it runs toward has reached it.
  static void reached(Play& play) {
    if (play.speed == 0 || play.ended() || play.at != (play.backward ? 0 : play.film.cycle)) return;
    if (play.film.passes == 1)
      ++play.edges;
    else
      play.at = play.backward ? play.film.cycle : Big{0};
  }
  // At rate 0 all is held: it turns, or has reached an edge, when it goes on.
  static bool turns(const Play& play) {
    if (play.speed == 0) return false;
    const bool at_edge = play.at == (play.backward ? Big{0} : play.film.cycle);
    return play.backward != (play.speed < 0) || (!play.ended() && at_edge);
  }
  // Whether what was set while all was held takes effect now.
  [[nodiscard]] bool goes_on() const {
    if (rate_ == 0 || done_ || !started_) return false;
    return std::any_of(plays_.begin(), plays_.end(), [](const auto& each) { return turns(each.second); });
  }
  [[nodiscard]] long speed_of(const Node& leaf) {
    if (leaf.def->speed.empty() && !leaf.def->blend) return 65536;
    double speed = leaf.def->speed.empty() ? 1 : compute_at(leaf, leaf.def->speed.text);
    if (leaf.def->blend) {
      const auto cycle = [&](std::size_t i) {
        return static_cast<double>(static_cast<std::int64_t>(film_of(def_, *leaf.def, std::to_string(i))->cycle >> 16));
      };
      const std::vector<double> weights = weights_of(leaf);
      double phase = 0;
      for (std::size_t i = 0; i < weights.size(); ++i)
        phase += (leaf.def->blend->points[i].backward ? -weights[i] : weights[i]) / cycle(i);
      speed = speed * phase * cycle(heaviest_of(leaf));
    }
    return std::isnan(speed) ? 0 : static_cast<long>(std::nearbyint(std::clamp(speed, -64.0, 64.0) * 65536));
  }
  [[nodiscard]] std::string choice_of(const Node& leaf) {
    if (leaf.def->blend) return std::to_string(heaviest_of(leaf));
    if (!leaf.def->clip_by) return "";
    const std::string& input = leaf.def->clip_by->input.text;
    return choices_.at(input)[static_cast<std::size_t>(values_.at(input))];
  }
  void retake() {
    for (Node* leaf : leaves(root_)) {
      const auto found = plays_.find(leaf);
      if ((!leaf->def->clip_by && !leaf->def->blend) || chosen_[leaf] == choice_of(*leaf)) continue;
      chosen_[leaf] = choice_of(*leaf);
      if (found == plays_.end()) continue;  // a pose
      const Play before = found->second;
      Play& play = found->second;
      play.film = *film_of(def_, *leaf->def, chosen_[leaf]);
      play.at = before.at * (play.film.cycle >> 16) / (before.film.cycle >> 16);
      if (!before.ended() && rate_ != 0) reached(play);
      if (play.ended() && !before.ended()) ended_for_[leaf] = 0;
      diff_spans(&before, &play);
    }
    for (Node* leaf : leaves(root_)) {
      const auto found = plays_.find(leaf);
      if (found == plays_.end()) continue;
      Play& play = found->second;
      const long speed = speed_of(*leaf);
      const Play before = play;
      play.speed = speed;
      if (rate_ == 0 || !turns(play)) continue;
      if (play.backward != (speed < 0)) {
        if (play.ended()) play.edges = 0;
        play.backward = speed < 0;
      }
      const bool was = play.ended();
      reached(play);
      if (play.ended() && !was) ended_for_[leaf] = 0;
      diff_spans(&before, &play);
    }
  }

  // --- fades ------------------------------------------------------------------------------------------------------
  static constexpr std::int64_t kWhole = std::int64_t{1} << 30;  // weights are counted in this many parts
  struct Layer {
    Node* leaf = nullptr;
    std::optional<Play> play;
    std::string pose;  // its clip and frame
    std::int64_t weight = 0;
    bool tells = false;
    [[nodiscard]] std::string words() const {
      return play ? clip_of(*play) + " " + std::to_string(frame_of(*play)) : pose.empty() ? " -1" : pose;
    }
  };
  struct Fade {
    Big run = 0, length = 0;
    std::vector<Layer> layers;  // the oldest first
  };
  // What a transition leaves in a region, with the weight it has now, the oldest first.
  std::vector<Layer> showing_in(Node* region, Node* leaf, bool tells) {
    std::vector<Layer> out;
    std::int64_t rest = kWhole;
    if (const auto fade = fades_.find(region); fade != fades_.end()) {
      for (Layer layer : fade->second.layers) {
        layer.weight = static_cast<std::int64_t>(Big{layer.weight} * (fade->second.length - fade->second.run) /
                                                 fade->second.length);
        rest -= layer.weight;
        if (layer.weight > 0) out.push_back(layer);
      }
    }
    Layer last;
    last.leaf = leaf;
    if (const auto play = plays_.find(leaf); play != plays_.end()) {
      last.play = play->second;
      // A turn that waited for the rate is taken now: what fades follows nothing any more.
      if (turns(*last.play)) {
        if (last.play->backward != (last.play->speed < 0) && last.play->ended()) last.play->edges = 0;
        last.play->backward = last.play->speed < 0;
        reached(*last.play);
      }
    }
    if (leaf->def->pose)
      last.pose =
          pose_clip(*leaf) + " " + (clip_of_pose(*leaf).frames.empty() ? "-1" : std::to_string(*leaf->def->pose));
    last.weight = rest;
    last.tells = tells;
    if (rest > 0) out.push_back(last);
    return out;
  }
  void begin_fade(Node* region, std::vector<Layer> layers, const GoDef& go) {
    if (layers.empty()) return;
    const auto lighter = [](const Layer& a, const Layer& b) { return a.weight < b.weight; };
    if (layers.size() > 3) {
      const auto lightest = std::min_element(layers.begin(), layers.end(), lighter);
      const std::int64_t weight = lightest->weight;
      layers.erase(lightest);
      std::max_element(layers.begin(), layers.end(), lighter)->weight += weight;
    }
    fades_[region] = {0, Big{go.fade.count} << 16, layers};
  }

  std::map<const Node*, std::string> chosen_;
  std::map<Node*, Fade> fades_;
};

}  // namespace mobrin::check
