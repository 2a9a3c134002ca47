#include "core/bolt/fit.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <nlopt.hpp>
#include <random>
#include <stdexcept>

#include "core/base/parallel.h"
#include "core/graph/edit.h"
#include "core/io/middle_square.h"
#include "core/plane/colour.h"
#include "core/proof/likeness.h"

namespace loom {
namespace {

using Clock = std::chrono::steady_clock;

// One number that is turned: a dial, or one part of a colour, there as the eye has it.
struct Knob {
  std::string dial;
  std::size_t part = 0;
  bool colour = false;
  double least = 0, most = 1, step = 0;
};

bool can_be_turned(const Value& v) {
  if (!v.dial || v.dial->kind == ParameterKind::seed) return false;
  if (std::holds_alternative<double>(v.value)) return v.dial->most > v.dial->least;
  return v.dial->kind == ParameterKind::colour && std::holds_alternative<Vector>(v.value);
}

double value_of(const Material& m, const Knob& k) {
  const ParamValue& v = m.value(k.dial)->value;
  if (!k.colour) return std::clamp(std::get<double>(v), k.least, k.most);
  return std::clamp(
      static_cast<double>(srgb_from_linear(std::max(0.0f, static_cast<float>(std::get<Vector>(v)[k.part])))), 0.0, 1.0);
}

class Fitting {
 public:
  Fitting(const Material& material, const Catalogue& catalogue, const FitWish& wish,
          const std::function<void(const FitState&)>& better, const Stop& stop)
      : catalogue_(catalogue), wish_(wish), better_(better), stop_(stop), began_(Clock::now()) {
    out_.best.material = material;
  }

  Result<Fitted> run(const Image& picture) {
    const auto planes = middle_square(picture, kLikenessSize);
    wanted_ = likeness_of({&planes[0], &planes[1], &planes[2]});
    codes_ = codes_of(planes);
    if (const auto chosen = choose(); !chosen) return chosen.error();
    const double prepared = seconds();
    auto now = unlike(out_.best.material);
    if (!now) return now.error();
    if (seconds() - prepared > kSlow) {  // of many states half as fine more is learnt than of few
      fineness_ = 1;
      now = unlike(out_.best.material);
      if (!now) return now.error();
    }
    out_.before = out_.best.unlikeness = *now;
    const FitState start = out_.best;
    drop_idle();
    if (!knobs_.empty()) search();
    if (!knobs_.empty() && fineness_ == 1) search_finely(start);
    out_.best.tried = tries_;
    out_.best.seconds = seconds();
    out_.in_time = seconds() < wish_.seconds;
    return std::move(out_);
  }

 private:
  using Planes = std::array<Plane, 3>;

  double seconds() const { return std::chrono::duration<double>(Clock::now() - began_).count(); }

  Result<Done> choose() {
    const Material& m = out_.best.material;
    std::string all;
    for (const Value& v : m.values)
      if (can_be_turned(v)) all += (all.empty() ? "" : ", ") + v.id;
    for (const std::string& name : wish_.dials) {
      const auto it = std::ranges::find_if(
          m.values, [&](const Value& v) { return v.dial && (v.id == name || v.dial->label == name); });
      if (it == m.values.end() || !can_be_turned(*it))
        return Error{name, it == m.values.end() ? "is no dial of this material" : "is no number and no colour",
                     all.empty() ? "It has none that can be turned" : "It has " + all};
    }
    for (const Value& v : m.values) {
      const bool wanted = wish_.dials.empty() || std::ranges::any_of(wish_.dials, [&](const std::string& name) {
                            return v.id == name || (v.dial && v.dial->label == name);
                          });
      if (wanted && can_be_turned(v)) add_knobs(v);
    }
    if (knobs_.empty()) return Error{"", "has no dials that can be turned", "Make dials of numbers or colours"};
    return Done{};
  }

  void add_knobs(const Value& v) {
    const Dial& d = *v.dial;
    if (d.kind == ParameterKind::colour) {
      for (std::size_t part = 0; part < 3; ++part) knobs_.push_back({v.id, part, true});
      return;
    }
    const bool whole = d.kind == ParameterKind::integer || d.kind == ParameterKind::toggle;
    knobs_.push_back({v.id, 0, false, d.least, d.most, whole ? std::max(d.step, 1.0) : d.step});
  }

  std::string label(const std::string& dial) const { return out_.best.material.value(dial)->dial->label; }

  // A dial that shows in nothing at either end would only be turned at random.
  void drop_idle() {
    std::vector<Knob> acting;
    for (const Knob& k : knobs_) {
      bool acts = false;
      for (const double end : {k.least, k.most}) {
        Material m = out_.best.material;
        turn(m, k, end);
        const auto there = unlike(m);
        acts |= there && std::abs(*there - out_.before) > 1e-9;
      }
      auto& list = acts ? out_.turned : out_.idle;
      if (acts) acting.push_back(k);
      if (list.empty() || list.back() != label(k.dial)) list.push_back(label(k.dial));
    }
    knobs_ = std::move(acting);
    std::erase_if(out_.idle, [&](const std::string& l) { return std::ranges::count(out_.turned, l) > 0; });  // in part
  }

  static void turn(Material& m, const Knob& k, double to) {
    if (!k.colour) {
      if (k.step > 0) to = std::clamp(k.least + std::round((to - k.least) / k.step) * k.step, k.least, k.most);
      m = edit::set_value(std::move(m), k.dial, to);
      return;
    }
    Vector v = std::get<Vector>(m.value(k.dial)->value);
    v[k.part] = static_cast<double>(linear_from_srgb(static_cast<float>(to)));
    m = edit::set_value(std::move(m), k.dial, v);
  }

  // The base colour over what the picture shows, read as wide as a pixel is.
  Result<Planes> tried(const Material& m) {
    ++tries_;
    const auto graph = flatten(m, catalogue_);
    if (!graph) return graph.error();
    const auto at = graph->hem.find("base_colour");
    if (at == graph->hem.end())
      return Error{"hem", "has no base colour to compare", "Connect an output to base_colour"};
    if (graph->surface_of(at->second) != SurfaceUse::none)
      return Error{"base_colour", "depends on the shape, and a picture has none", "Fit a material that is seen flat"};
    // Twice as fine as it is compared: what is narrower than a pixel has to be woven to be seen.
    int size = 128;
    while (size < 4096 && size < fineness_ * kLikenessSize / wish_.scale * 0.99) size *= 2;
    const auto woven = weaver_.weave(*graph, {Want(at->second, Kind::colour)}, size, stop_);
    if (!woven) return woven.error();
    if (!woven->faults.empty()) return woven->faults.begin()->second;
    return seen(woven->fields.front());
  }

  double unlike(const Planes& there) const {
    return unlikeness(likeness_of({&there[0], &there[1], &there[2]}), wanted_);
  }
  Result<double> unlike(const Material& m) {
    const auto there = tried(m);
    if (!there) return there.error();
    return unlike(*there);
  }

  static std::vector<float> codes_of(const Planes& linear) {
    std::vector<float> codes(linear.size() * kLikenessSize * kLikenessSize);
    for_rows(kLikenessSize, 16, Stop{}, [&](int first, int last) {
      for (std::size_t c = 0; c < linear.size(); ++c)
        for (int y = first; y < last; ++y)
          for (int x = 0; x < kLikenessSize; ++x)
            codes[(c * kLikenessSize + static_cast<std::size_t>(y)) * kLikenessSize + static_cast<std::size_t>(x)] =
                255 * srgb_from_linear(std::clamp(linear[c].at(x, y), 0.0f, 1.0f));
    });
    return codes;
  }

  // Pixel by pixel.
  struct LaidOver {
    double apart = 0;    // root of the mean square, in codes of eight bits
    double matches = 0;  // correlation
  };
  LaidOver laid_over(const Planes& there) const {
    const std::vector<float> codes = codes_of(there);
    double apart = 0, a = 0, b = 0, aa = 0, bb = 0, ab = 0;
    for (std::size_t i = 0; i < codes.size(); ++i) {
      const auto x = static_cast<double>(codes[i]), y = static_cast<double>(codes_[i]);
      apart += (x - y) * (x - y);
      a += x, b += y, aa += x * x, bb += y * y, ab += x * y;
    }
    const auto n = static_cast<double>(codes.size());
    const double spread = (aa - a * a / n) * (bb - b * b / n);
    return {std::sqrt(apart / n), spread > 0 ? (ab - a * b / n) / std::sqrt(spread) : 0};
  }

  Planes seen(const Field& f) const {
    Planes out{Plane(kLikenessSize), Plane(kLikenessSize), Plane(kLikenessSize)};
    const double step = wish_.scale * f.size() / kLikenessSize;  // texels a pixel, about two
    for_rows(kLikenessSize, 16, Stop{}, [&](int first, int last) {
      for (int y = first; y < last; ++y)
        for (int x = 0; x < kLikenessSize; ++x)
          for (std::size_t c = 0; c < 3; ++c) out[c].at(x, y) = mean_of_pixel(*f.strand[c], x * step, y * step, step);
    });
    return out;
  }

  // Of the texels whose middles lie in a pixel.
  static float mean_of_pixel(const Plane& p, double left, double top, double step) {
    const auto first = [](double at) { return static_cast<int>(std::ceil(at - 0.5)); };
    float sum = 0;
    int count = 0;
    for (int y = first(top); y < first(top + step); ++y)
      for (int x = first(left); x < first(left + step); ++x) sum += p.at(wrap(x, p.size()), wrap(y, p.size())), ++count;
    return sum / static_cast<float>(std::max(count, 1));
  }

  using Knobs = std::vector<const Knob*>;

  Material at(const Knobs& knobs, const std::vector<double>& x) const {
    Material m = out_.best.material;
    for (std::size_t i = 0; i < knobs.size(); ++i)
      turn(m, *knobs[i], knobs[i]->least + x[i] * (knobs[i]->most - knobs[i]->least));
    return m;
  }

  void take(const Material& m, double unlikeness) {
    ever_ = out_.best = {m, unlikeness, tries_, seconds()};
    if (better_) better_(ever_);
  }

  // Squares: near the best they are as smooth as the statistics are. A state that cannot be woven is as bad as can be.
  double score(const Material& m) {
    const double until = fineness_ == 2 ? wish_.seconds : kCoarseShare * wish_.seconds;
    if (stop_.asked() || seconds() > until || tries_ >= wish_.tries) throw nlopt::forced_stop();
    const auto there = tried(m);
    if (!there) return 1e6;
    if (in_place_) {
      const double apart = laid_over(*there).apart;
      if (apart < nearest_) nearest_ = apart, take(m, unlike(*there));
      return apart * apart;
    }
    const double found = unlike(*there);
    if (found < ever_.unlikeness)
      take(m, found);
    else if (found < out_.best.unlikeness)
      out_.best = {m, found, tries_, seconds()};
    return found * found;
  }

  void minimise(nlopt::algorithm method, const Knobs& knobs, int most, double first_step) {
    const auto n = static_cast<unsigned>(knobs.size());
    nlopt::opt opt(method, n);
    opt.set_lower_bounds(0.0);
    opt.set_upper_bounds(1.0);
    opt.set_maxeval(most);
    opt.set_xtol_abs(method == nlopt::GN_CRS2_LM ? 0.01 : 2e-4);
    opt.set_initial_step(first_step);
    if (method == nlopt::GN_CRS2_LM) opt.set_population(6 * (n + 1));
    using Call = std::function<double(const std::vector<double>&)>;
    Call call = [this, &knobs](const std::vector<double>& x) { return score(at(knobs, x)); };
    opt.set_min_objective(
        [](const std::vector<double>& x, std::vector<double>&, void* data) { return (*static_cast<Call*>(data))(x); },
        &call);
    std::vector<double> x;
    for (const Knob* k : knobs) x.push_back((value_of(out_.best.material, *k) - k->least) / (k->most - k->least));
    double reached = 0;
    try {
      opt.optimize(x, reached);
    } catch (const nlopt::forced_stop&) {
      throw;
    } catch (const std::runtime_error&) {  // a method that can go no further leaves what it has reached
    }
  }

  // About the best: what goes evenly together, by a model of second order where there are two or more.
  void refine(int most, double step) {
    if (smooth_.empty()) return;
    minimise(smooth_.size() > 1 ? nlopt::LN_BOBYQA : nlopt::LN_SBPLX, smooth_, most, step);
  }

  // What goes in steps: the next one up and down, each time with the others after it.
  bool step_about() {
    const double before = out_.best.unlikeness;
    for (const Knob* k : stepped_)
      for (const double by : {-k->step, k->step}) {
        const FitState was = out_.best;
        Material m = was.material;
        turn(m, *k, value_of(m, *k) + by);
        if (m.value(k->dial)->value == was.material.value(k->dial)->value) continue;
        out_.best.material = m;  // to go on from there
        out_.best.unlikeness = 1e3;
        score(m);
        refine(8 * static_cast<int>(smooth_.size()) + 4, 0.05);
        if (out_.best.unlikeness >= was.unlikeness) out_.best = was;
      }
    return out_.best.unlikeness < before;
  }

  // Where the picture shows the tile itself, pixels tell more of a dial that shows weakly than statistics do. Tried
  // again only about another best.
  void lay_over() {
    if (smooth_.empty() || ever_.unlikeness >= laid_over_at_) return;
    laid_over_at_ = ever_.unlikeness;
    const auto there = tried(ever_.material);
    if (!there) return;
    const LaidOver now = laid_over(*there);
    if (now.matches < kMatches) return;
    out_.best = ever_;
    nearest_ = now.apart;
    in_place_ = true;
    for (const double step : {0.04, 0.01, 0.002}) refine(20 * static_cast<int>(smooth_.size()), step);
    in_place_ = false;
    if (nearest_ <= kSame) throw nlopt::forced_stop();  // found
  }

  // Once more about the best, as fine as all else is compared.
  void search_finely(const FitState& start) {
    fineness_ = 2;
    const auto at_start = unlike(start.material), at_best = unlike(out_.best.material);
    if (!at_start || !at_best) return;  // stopped
    out_.before = *at_start;
    out_.best.unlikeness = *at_best;
    if (*at_start < *at_best) out_.best = {start.material, *at_start, tries_, seconds()};
    ever_ = out_.best;
    laid_over_at_ = kNever;
    try {
      lay_over();
      for (double step = 0.05; !smooth_.empty() && step > 0.001; step /= 4)
        refine(20 * static_cast<int>(smooth_.size()), step);
      step_about();
    } catch (const nlopt::forced_stop&) {
    }
    in_place_ = false;
    out_.best = ever_;
  }

  // From a place drawn by chance; what it leads to counts only where it is better than all before.
  void begin_elsewhere(unsigned round) {
    std::mt19937 chance(round);
    std::vector<double> x(all_.size());
    for (double& place : x) place = std::uniform_real_distribution(0.0, 1.0)(chance);
    out_.best.unlikeness = 1e3;
    score(at(all_, x));
    refine(20 * static_cast<int>(all_.size()) + 10, 0.15);
    if (ever_.unlikeness < out_.best.unlikeness) out_.best = ever_;
  }

  // About where it stands; then wide, and about the best again, from another draw each time, as long as that gains;
  // where it does not, from elsewhere, too.
  void search() {
    for (const Knob& k : knobs_) {
      (k.step > 0 ? stepped_ : smooth_).push_back(&k);
      all_.push_back(&k);
    }
    const int n = static_cast<int>(knobs_.size());
    ever_ = out_.best;
    try {
      refine(20 * n + 10, 0.15);
      lay_over();
      for (unsigned round = 1, idle = 0; idle < kIdleRounds; ++round) {
        const double before = out_.best.unlikeness;
        nlopt::srand(round);
        for (unsigned i = 0; i < idle; ++i) begin_elsewhere(kIdleRounds * round + i);
        minimise(nlopt::GN_CRS2_LM, all_, 40 * n, 0.1);
        refine(30 * n + 10, 0.05);
        while (step_about()) {
        }
        if (!smooth_.empty()) minimise(nlopt::LN_SBPLX, smooth_, 20 * n + 10, 0.03);
        idle = out_.best.unlikeness < before * 0.99 ? 0 : idle + 1;
        lay_over();
      }
    } catch (const nlopt::forced_stop&) {
    }
    in_place_ = false;
    if (ever_.unlikeness <= out_.best.unlikeness) out_.best = ever_;
  }

  static constexpr unsigned kIdleRounds = 12;  // after which it ends
  static constexpr double kNever = 1e9;
  static constexpr double kMatches = 0.6;                    // from here on it is the same tile
  static constexpr double kSame = 0.25;                      // codes: about what eight bits leave
  static constexpr double kSlow = 0.25, kCoarseShare = 0.6;  // seconds for one state; of the time
  int fineness_ = 2;                                         // texels a pixel
  const Catalogue& catalogue_;
  const FitWish& wish_;
  const std::function<void(const FitState&)>& better_;
  const Stop& stop_;
  Clock::time_point began_;
  Weaver weaver_{std::size_t{256} << 20};
  Likeness wanted_;
  std::vector<float> codes_;      // of the picture, sRGB, 0 to 255
  bool in_place_ = false;         // pixel by pixel
  double nearest_ = 0;            // in codes
  double laid_over_at_ = kNever;  // how unlike it was when that was tried last
  std::vector<Knob> knobs_;
  Knobs smooth_, stepped_, all_;
  FitState ever_;  // the best of all; out_.best is where the search goes on from
  Fitted out_;
  int tries_ = 0;
};

}  // namespace

std::vector<const Value*> dials_to_fit(const Material& material) {
  std::vector<const Value*> all;
  for (const Value& v : material.values)
    if (can_be_turned(v)) all.push_back(&v);
  return all;
}

Result<Fitted> fit(const Material& material, const Catalogue& catalogue, const Image& picture, const FitWish& wish,
                   const std::function<void(const FitState&)>& better, const Stop& stop) {
  if (picture.width < 32 || picture.height < 32)
    return Error{"", "the picture is smaller than 32 x 32", "Choose a larger one"};
  if (!(wish.scale > 0.05) || wish.scale > 16)
    return Error{"--scale", "is not within 0.05 and 16", "Say how many tiles the picture is wide"};
  return Fitting(material, catalogue, wish, better, stop).run(picture);
}

}  // namespace loom
