// Two threads: one weaves, one lights. Both leave the interface thread its share of the processor.
#include "app/engine/engine.h"

#include <oneapi/tbb/task_scheduler_observer.h>
#include <sys/resource.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <QElapsedTimer>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/base/hash.h"
#include "core/base/parallel.h"
#include "core/graph/hem.h"
#include "core/nodes/catalogue.h"
#include "core/plane/colour.h"
#include "core/surface/unlit.h"

namespace loom::app {
namespace {

constexpr int kQuickSize = 256, kSmallSize = 128;

void lower() { ::setpriority(PRIO_PROCESS, static_cast<id_t>(::syscall(SYS_gettid)), 12); }

class WorkersGiveWay : public oneapi::tbb::task_scheduler_observer {
 public:
  WorkersGiveWay() { observe(true); }
  void on_scheduler_entry(bool is_worker) override {
    if (is_worker) lower();
  }
};

int code(float x, bool srgb) {
  static const std::vector<unsigned char> kTable = [] {
    std::vector<unsigned char> t(4097);
    for (std::size_t i = 0; i < t.size(); ++i)
      t[i] = static_cast<unsigned char>(code_of(srgb_from_linear(static_cast<float>(i) / 4096), 255));
    return t;
  }();
  if (!(x > 0)) return 0;
  if (x >= 1) return 255;
  return srgb ? kTable[static_cast<std::size_t>(x * 4096 + 0.5f)] : static_cast<int>(x * 255 + 0.5f);
}

// The numbers of a strand that lie on what it is laid out on.
std::vector<float> covered(const Plane& plane, const ChartedShape& on) {
  std::vector<float> out;
  for (int y = 0; y < on.size(); ++y)
    for (int x = 0; x < on.size(); ++x)
      if (on.covers(x, y)) out.push_back(plane.at(x, y));
  return out;
}

Range range_of_numbers(const std::vector<float>& numbers) {
  const auto [least, most] = std::minmax_element(numbers.begin(), numbers.end());
  const double sum = std::accumulate(numbers.begin(), numbers.end(), 0.0);
  return {*least, *most, static_cast<float>(sum / static_cast<double>(numbers.size()))};
}

void count(Seen& seen, std::span<const float> numbers, std::size_t step) {
  const float scale = 64 / std::max(seen.range.most - seen.range.least, 1e-12f);
  for (std::size_t i = 0; i < numbers.size(); i += step)
    ++seen.histogram[static_cast<std::size_t>(std::clamp((numbers[i] - seen.range.least) * scale, 0.0f, 63.0f))];
}

void measure(const Field& field, int channel, Seen& seen) {
  const int n = strand_count(field.kind);
  if (n == 0) return;
  const int first = channel >= 0 && channel < n ? channel : 0, last = channel >= 0 && channel < n ? channel + 1 : n;
  std::vector<std::vector<float>> on_shape;
  for (int c = first; c < last && seen.on; ++c)
    on_shape.push_back(covered(*field.strand[static_cast<std::size_t>(c)], *seen.on));
  if (seen.on && on_shape[0].empty()) return;
  const auto range = [&](int c) {
    return seen.on ? range_of_numbers(on_shape[static_cast<std::size_t>(c - first)])
                   : range_of(*field.strand[static_cast<std::size_t>(c)]);
  };
  seen.range = range(first);
  float mean = 0;
  for (int c = first; c < last; ++c) {
    const Range r = range(c);
    seen.range.least = std::min(seen.range.least, r.least);
    seen.range.most = std::max(seen.range.most, r.most);
    mean += r.mean / static_cast<float>(last - first);
  }
  seen.range.mean = mean;
  for (int c = first; c < last; ++c) {
    const Plane& p = *field.strand[static_cast<std::size_t>(c)];
    count(seen,
          seen.on ? std::span<const float>(on_shape[static_cast<std::size_t>(c - first)])
                  : std::span<const float>(p.data(), p.texels()),
          7);
  }
}

// What lies between the pieces is nothing of the shape.
void coverGaps(QImage& image, const ChartedShape& on) {
  for (int y = 0; y < image.height(); ++y) {
    auto* line = reinterpret_cast<QRgb*>(image.scanLine(y));
    for (int x = 0; x < image.width(); ++x)
      if (!on.covers(x, y)) line[x] = qRgb(107, 107, 107);
  }
}

QRgb rgb(const std::array<std::uint8_t, 3>& codes) { return qRgb(codes[0], codes[1], codes[2]); }

// -1: below what its kind may hold, 1: above. Normals have length 1; vectors and regions have no range of their own.
int out_of_range(const Field& f, int x, int y) {
  if (f.kind == Kind::vector2 || f.kind == Kind::vector3 || f.kind == Kind::regions || f.kind == Kind::set) return 0;
  if (f.kind == Kind::normal) {
    float square = 0;
    for (std::size_t c = 0; c < 3; ++c) square += f.strand[c]->at(x, y) * f.strand[c]->at(x, y);
    return square < 0.98f ? -1 : square > 1.02f ? 1 : 0;
  }
  int side = 0;
  for (int c = 0; c < strand_count(f.kind) && !side; ++c) {
    const float value = f.strand[static_cast<std::size_t>(c)]->at(x, y);
    side = value < 0 ? -1 : value > 1 ? 1 : 0;
  }
  return side;
}

void check(const Field& field, const Engine::Wish& wish, const Stop& stop, Seen& seen) {
  const int n = strand_count(field.kind);
  if (n == 0) return;
  const int size = field.size();
  if (wish.look == Look::marked) {
    std::size_t below = 0, above = 0, all = 0;
    for (int y = 0; y < size; ++y)
      for (int x = 0; x < size; ++x) {
        if (seen.on && !seen.on->covers(x, y)) continue;
        const int side = out_of_range(field, x, y);
        below += side<0, above += side> 0, ++all;
      }
    seen.below = static_cast<double>(below) / static_cast<double>(std::max<std::size_t>(all, 1));
    seen.above = static_cast<double>(above) / static_cast<double>(std::max<std::size_t>(all, 1));
  }
  if (seen.on || !wish.seam || field.kind == Kind::regions) return;
  for (int c = 0; c < n; ++c) {
    const SeamFigures f = seam_figures(*field.strand[static_cast<std::size_t>(c)], stop);
    const auto excess = [](const SeamFigures& s) {
      return std::max(s.first / (s.most_first + 1e-9f), s.second / (s.most_second + 1e-9f));
    };
    if (!seen.seam || excess(f) > excess(*seen.seam)) seen.seam = f;
  }
}

void tellFaults(const FlatGraph& graph, const std::map<int, Error>& faults, Seen& seen) {
  for (const auto& [node, error] : faults) seen.faults[graph.nodes[static_cast<std::size_t>(node)].path] = error;
}

// Calls `take(hem, seen)` for the hem of all and for those of parts.
template <class Take>
void each_hem(const FlatGraph& graph, Seen& seen, const Take& take) {
  take(graph.hem, static_cast<SeenHem&>(seen));
  for (const auto& [part, hem] : graph.part_hems) take(hem, seen.parts[part]);
}

}  // namespace

QImage pictureOf(const Field& field, int channel, Look look) {
  const Field* f = &field;
  if (f->kind == Kind::set && !f->members.empty()) f = &f->members[0].second;
  if (!f->strand[0]) return {};
  const int size = f->strand[0]->size();
  QImage image(size, size, QImage::Format_RGB32);
  const bool colour = f->kind == Kind::colour || f->kind == Kind::colour_alpha, normal = f->kind == Kind::normal;
  const int n = strand_count(f->kind);
  for (int y = 0; y < size; ++y) {
    auto* out = reinterpret_cast<QRgb*>(image.scanLine(y));
    const float* row[3];
    for (int c = 0; c < 3; ++c) {
      const int from = channel >= 0 && channel < n ? channel : n >= 3 ? c : n == 2 && c == 2 ? -1 : std::min(c, n - 1);
      row[c] = from < 0 ? nullptr : f->strand[static_cast<std::size_t>(from)]->row(y);
    }
    for (int x = 0; x < size; ++x) {
      if (f->kind == Kind::regions) {
        const float index = row[0][x];
        const std::uint32_t h = index < 0 ? 0 : pcg(static_cast<std::uint32_t>(index) + 17);
        out[x] = index < 0 ? qRgb(40, 38, 36)
                           : qRgb(70 + static_cast<int>(h & 127), 70 + static_cast<int>(h >> 8 & 127),
                                  70 + static_cast<int>(h >> 16 & 127));
        continue;
      }
      int v[3];
      for (int c = 0; c < 3; ++c) {
        const float value = row[c] ? row[c][x] : 0;
        v[c] = code(normal ? 0.5f + 0.5f * value : value, colour && channel != 3);
      }
      out[x] = qRgb(v[0], v[1], v[2]);
      if (look == Look::about_zero) out[x] = rgb(about_zero(row[0][x]));
      if (look == Look::marked)
        if (const int side = out_of_range(*f, x, y)) out[x] = side < 0 ? qRgb(46, 74, 200) : qRgb(214, 48, 40);
    }
  }
  return image;
}

namespace {

// What is known of one mesh: the later beside the earlier, as long as these are few.
std::shared_ptr<const MeasuredMesh> together(const std::shared_ptr<const MeasuredMesh>& earlier,
                                             const std::shared_ptr<const MeasuredMesh>& later) {
  constexpr std::size_t kMostKnown = 24;
  if (!earlier || earlier->known.size() > kMostKnown) return later;
  auto all = std::make_shared<MeasuredMesh>(*later);
  all->known.insert(earlier->known.begin(), earlier->known.end());
  return all;
}

}  // namespace

QImage pictureOnShape(Weaver& weaver, const FlatGraph& graph, const OutputRef& output, int size,
                      std::shared_ptr<const MeasuredMesh>& block, const Stop& stop) {
  auto made = weaver.over_surface(graph, {{kUnlit, Want(output)}}, size, stop);
  if (!made || strand_count(made->program.outputs[0].kind) == 0) return {};
  const std::map<std::string, Field> none;
  const auto maps =
      std::make_shared<SurfaceMaps>(none, Extent{}, std::make_shared<SurfaceProgram>(std::move(made->program)));
  DrapeView view;
  view.width = view.height = size;
  view.camera = {0, 0, 4.3f};
  if (!Worn(maps).measures().empty()) {  // a ball has no edges
    view.shape = ShapeName::block;
    view.camera = Camera::start(view.shape);
    view.measured = block;
    constexpr std::size_t kPoints = kCoarsePoints / 2;  // enough for a hundred pixels
    const auto measured = measured_for(maps, view, stop, {}, kPoints);
    if (!measured) return {};
    view.measured = block = together(block, *measured);
  }
  view.unlit = true;
  view.background = Background::none;
  view.light_height = std::asin(std::clamp(graph.light[1], -1.0f, 1.0f)) / kDegree;
  view.light_degrees = std::atan2(-graph.light[0], graph.light[2]) / kDegree;
  Drape drape(maps, view);
  drape.first_answer(1, stop);
  QImage image(size, size, QImage::Format_RGB32);
  image.fill(QColor(118, 118, 118));
  const auto rgba = drape.picture_with_alpha();
  QPainter(&image).drawImage(0, 0, QImage(rgba.data(), size, size, size * 4, QImage::Format_RGBA8888));
  return image;
}

QImage differenceOf(const QImage& a, const QImage& b, int gain) {
  const QImage one = a.convertToFormat(QImage::Format_RGB32), other = b.convertToFormat(QImage::Format_RGB32);
  QImage out(one.size(), QImage::Format_RGB32);
  for (int y = 0; y < one.height(); ++y) {
    const auto *p = reinterpret_cast<const QRgb*>(one.constScanLine(y)),
               *q = reinterpret_cast<const QRgb*>(other.constScanLine(y));
    auto* to = reinterpret_cast<QRgb*>(out.scanLine(y));
    const auto apart = [&](int v, int w) { return std::min(255, std::abs(v - w) * gain); };
    for (int x = 0; x < one.width(); ++x)
      to[x] = qRgb(apart(qRed(p[x]), qRed(q[x])), apart(qGreen(p[x]), qGreen(q[x])), apart(qBlue(p[x]), qBlue(q[x])));
  }
  return out;
}

void giveWay() {
  static WorkersGiveWay* const kObserver = new WorkersGiveWay;  // never destroyed: workers outlive static objects
  (void)kObserver;
  lower();
}

Engine::Engine(QObject* parent)
    : QObject(parent),
      weaver_(default_budget()),
      worker_([this](const Numbered& job, const Stop& stop) { run(job, stop); },
              [this] { Q_EMIT refused(tr("There is not enough memory for this material")); }) {
  qRegisterMetaType<SeenPtr>();
  qRegisterMetaType<Pictures>();
  qRegisterMetaType<Spreads>();
  qRegisterMetaType<FollowedPtr>();
  qRegisterMetaType<std::string>("std::string");
}

void Engine::wish(Wish wish) { worker_.ask({std::move(wish), ++number_}); }

void Engine::run(const Numbered& job, const Stop& stop) {
  const Wish& wish = job.wish;
  auto graph = flatten(wish.material, catalogue());
  if (graph) graph->light = wish.light;
  if (!graph) return refused(QString::fromStdString(graph.error().text()));
  // The quick pass is never cancelled: whoever drags a dial sees something move.
  if (wish.size > kQuickSize) pass(*graph, wish, job.number, kQuickSize, Stop{});
  Q_EMIT busy(true, tr("weaving at %1").arg(wish.size));
  if (!stop.asked() && pass(*graph, wish, job.number, wish.size, stop)) {
    unitValues(*graph, wish.node, stop);
    follow(*graph, wish, stop);
    smallPictures(*graph, wish.inside, stop);
  }
  Q_EMIT busy(false, {});
  Q_EMIT weaving({});
}

bool Engine::pass(const FlatGraph& graph, const Wish& wish, quint64 number, int size, const Stop& stop) {
  QElapsedTimer timer;
  timer.start();
  auto seen = std::make_shared<Seen>();
  std::vector<Want> wants;
  std::vector<Field*> woven_to;
  each_hem(graph, *seen, [&](const FlatHem& hem, SeenHem& own) {
    for (const auto& [slot, ref] : hem)
      if (graph.surface_of(ref) == SurfaceUse::none)
        wants.emplace_back(ref, slot_kind(slot)), woven_to.push_back(&own.hem[slot]);
  });
  const auto loupe = graph.find(wish.loupe);
  if (loupe) seen->loupe_use = graph.surface_of(*loupe);
  const bool over_shape =
      loupe && seen->loupe_use != SurfaceUse::none && layOut(graph, wish, *loupe, size, stop, *seen);
  if (loupe && !over_shape) wants.emplace_back(*loupe);
  WeaveOptions options;
  QElapsedTimer told;
  told.start();
  options.progress = [&](double, const std::string& node) {
    if (told.elapsed() < 150) return;  // what is over at once need not be told
    told.restart();
    Q_EMIT weaving(node);
  };
  auto woven = weaver_.weave(graph, wants, size, stop, options);
  if (!woven) {
    if (!stop.asked()) Q_EMIT refused(QString::fromStdString(woven.error().text()));
    return false;
  }
  seen->size = size;
  seen->wish = number;
  for (std::size_t i = 0; i < woven_to.size(); ++i) *woven_to[i] = woven->fields[i];
  if (loupe) {
    if (!over_shape) seen->loupe = woven->fields.back();
    seen->loupe_output = wish.loupe;
    QImage picture = pictureOf(*seen->loupe, wish.channel, wish.look);
    if (seen->on) coverGaps(picture, *seen->on);
    seen->loupe_picture = picture;
    measure(*seen->loupe, wish.channel, *seen);
    check(*seen->loupe, wish, stop, *seen);
  }
  tellFaults(graph, woven->faults, *seen);
  if (stop.asked()) return false;
  if (size <= kQuickSize) {
    const auto own = graph.part_hems.find(wish.part);
    own == graph.part_hems.end() ? hemPictures(graph, graph.hem, *seen, stop)
                                 : hemPictures(graph, own->second, seen->parts[wish.part], stop);
  }
  if (const auto laid = lay(graph, wish, *seen, stop); !laid) {
    if (!stop.asked()) Q_EMIT refused(QString::fromStdString(laid.error().text()));
    return false;
  }
  seen->asks_for_light =
      std::ranges::any_of(graph.nodes, [](const FlatNode& n) { return n.surface == SurfaceUse::eye_or_light; });
  seen->milliseconds = static_cast<double>(timer.nsecsElapsed()) * 1e-6;
  // Typed values of the hem are no nodes to whoever counts them.
  seen->nodes = static_cast<std::size_t>(
      std::ranges::count_if(graph.nodes, [](const FlatNode& n) { return !n.path.starts_with(kHemNode); }));
  for (const FlatNode& n : graph.nodes) seen->paths.push_back(n.path);
  for (const NodeTime& t : woven->times) seen->times[graph.nodes[static_cast<std::size_t>(t.node)].path] = t;
  Q_EMIT this->seen(seen);
  return true;
}

std::shared_ptr<const ChartedShape> Engine::charted(const std::shared_ptr<const MeshShape>& mesh, int size,
                                                    const Stop& stop) {
  constexpr std::size_t kMostKept = 4, kSoon = 40000;  // triangles that are laid out while one waits
  std::shared_ptr<const ChartedShape> same;
  for (const auto& c : charted_)
    if (c->mesh() == mesh && (same = c)->size() == size) return same;
  if (same) {
    same = same->at(size);
  } else if (mesh != no_charts_ && (size > kQuickSize || mesh->mesh().triangle.size() <= kSoon)) {
    const auto made = ChartedShape::make(mesh, size, stop);
    if (made) same = *made;
    if (!made && size > kQuickSize && !stop.asked()) no_charts_ = mesh;
  }
  if (!same) return nullptr;
  charted_.push_back(same);
  if (charted_.size() > kMostKept) charted_.erase(charted_.begin());
  return same;
}

// An output that depends on a shape, as it lies on what the drape shows; false where that cannot be: then it is shown
// as a ball has it on which the tile lies once.
bool Engine::layOut(const FlatGraph& graph, const Wish& wish, const OutputRef& output, int size, const Stop& stop,
                    Seen& seen) {
  auto made = weaver_.over_surface(graph, {{wish.loupe, Want(output)}}, size, stop);
  if (!made || strand_count(made->program.outputs[0].kind) == 0) return false;
  tellFaults(graph, made->faults, seen);
  for (const MeshMeasure& what : made->program.program.measures)
    if (what.needs_rays()) seen.loupe_measures.insert(what);
  const auto on = charted(mesh_of(wish.on), size, stop);
  if (!on) return false;
  const Extent extent{graph.measures.tile_metres, graph.measures.relief_metres};
  seen.loupe = laid_out(made->program, *on, wish.on, extent, stop);
  seen.on = on;
  return true;
}

void Engine::hemPictures(const FlatGraph& graph, const FlatHem& hem, SeenHem& seen, const Stop& stop) {
  for (const auto& [slot, ref] : hem) {
    const auto map = seen.hem.find(slot);
    const QImage whole =
        map != seen.hem.end() ? pictureOf(map->second) : pictureOnShape(weaver_, graph, ref, kSmallSize, block_, stop);
    seen.hem_pictures[slot] = whole.scaled(64, 64, Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
  }
}

// The maps of every hem, or those of the one output that is shown as it is.
Result<Done> Engine::lay(const FlatGraph& graph, const Wish& wish, Seen& seen, const Stop& stop) {
  if (wish.unlit && seen.loupe) {
    auto maps = unlitMaps(graph, wish, seen, stop);
    if (!maps) return maps.error();
    seen.maps = *maps;
    return Done{};
  }
  std::erase_if(laid_,
                [&](const auto& l) { return !l.first.second.empty() && !graph.part_hems.count(l.first.second); });
  auto everywhere = mapsOf(graph, graph.hem, seen, laid_[{seen.size, {}}], seen, stop);
  if (!everywhere) return everywhere.error();
  seen.maps = *everywhere;
  for (auto& [part, own] : seen.parts) {
    auto maps = mapsOf(graph, graph.part_hems.at(part), own, laid_[{seen.size, part}], seen, stop);
    if (!maps) return maps.error();
    own.maps = *maps;
  }
  return Done{};
}

// The slots that are maps as planes, the others as a program over the shape. The same planes need no new maps.
Result<std::shared_ptr<const SurfaceMaps>> Engine::mapsOf(const FlatGraph& graph, const FlatHem& hem,
                                                          const SeenHem& woven, Laid& laid, Seen& seen,
                                                          const Stop& stop) {
  std::map<std::string, Want> over;
  KeyMaker key;
  for (const auto& [slot, ref] : hem) {
    if (woven.hem.count(slot)) continue;
    over.emplace(slot, Want(ref, slot_kind(slot)));
    key.add(slot).add(graph.nodes[static_cast<std::size_t>(ref.node)].key).add(ref.output);
  }
  const auto same = [](const auto& a, const auto& b) {
    return a.first == b.first && a.second.strand == b.second.strand;
  };
  const Extent extent{graph.measures.tile_metres, graph.measures.relief_metres};
  if (!laid.maps || !(laid.maps->extent() == extent) ||
      !std::equal(laid.slots.begin(), laid.slots.end(), woven.hem.begin(), woven.hem.end(), same))
    laid = {woven.hem, {}, std::make_shared<SurfaceMaps>(woven.hem, extent)};
  const Key of = over.empty() ? Key{} : key.key();
  if (laid.over_surface == of) return laid.maps;
  std::shared_ptr<const SurfaceProgram> program;
  if (!over.empty()) {
    auto made = weaver_.over_surface(graph, over, seen.size, stop);
    if (!made) return made.error();
    program = std::make_shared<SurfaceProgram>(std::move(made->program));
    tellFaults(graph, made->faults, seen);
    if (!made->faults.empty()) return laid.maps->under(std::move(program));  // not kept: it is to be told again
  }
  laid.over_surface = of;
  return laid.maps = laid.maps->under(std::move(program));
}

Result<std::shared_ptr<const SurfaceMaps>> Engine::unlitMaps(const FlatGraph& graph, const Wish& wish, const Seen& seen,
                                                             const Stop& stop) {
  const bool two_colours = wish.look == Look::about_zero;
  const Extent extent{graph.measures.tile_metres, graph.measures.relief_metres};
  const auto height = seen.hem.find("height");
  const Field* relief = height == seen.hem.end() ? nullptr : &height->second;
  const OutputRef shown = *graph.find(wish.loupe);
  if (graph.surface_of(shown) == SurfaceUse::none)
    return std::shared_ptr<const SurfaceMaps>(
        std::make_shared<SurfaceMaps>(unlit_slots(*seen.loupe, two_colours, relief), extent));
  auto made = weaver_.over_surface(graph, {{two_colours ? kUnlitAboutZero : kUnlit, Want(shown)}}, seen.size, stop);
  if (!made) return made.error();
  std::map<std::string, Field> slots;
  if (relief) slots["height"] = *relief;
  return std::shared_ptr<const SurfaceMaps>(
      std::make_shared<SurfaceMaps>(slots, extent, std::make_shared<SurfaceProgram>(std::move(made->program))));
}

void Engine::unitValues(const FlatGraph& graph, const std::string& path, const Stop& stop) {
  for (std::size_t i = 0; i < graph.nodes.size() && !path.empty(); ++i) {
    if (graph.nodes[i].path != path) continue;
    auto spread = spreads_of(weaver_, graph, static_cast<int>(i), stop);
    if (!stop.asked())
      Q_EMIT spreads(path, std::make_shared<const std::map<std::string, std::vector<float>>>(std::move(spread)));
    return;
  }
}

void Engine::follow(const FlatGraph& graph, const Wish& wish, const Stop& stop) {
  const auto output = graph.find(wish.loupe);
  if (!wish.follow || !output) return;
  const auto found = trace(weaver_, catalogue(), graph, *output, wish.follow->x(), wish.follow->y(), wish.size, stop);
  if (!found) return;
  auto followed = std::make_shared<Followed>();
  for (const TracedOutput& t : found->outputs) {
    const FlatNode& n = graph.nodes[static_cast<std::size_t>(t.ref.node)];
    followed->values[n.path + "." + n.type->outputs[static_cast<std::size_t>(t.ref.output)].id] = t;
  }
  for (const TraceStep& s : found->path)
    followed->path.emplace_back(graph.nodes[static_cast<std::size_t>(s.node)].path + "." + s.peg, s.influence);
  Q_EMIT this->followed(followed);
}

void Engine::smallPictures(const FlatGraph& graph, const std::string& inside, const Stop& stop) {
  std::vector<Want> wants;
  std::vector<std::pair<std::string, Key>> missing;
  for (const auto& [output, ref] : graph.outputs) {
    const auto path = output.rfind('/');
    if (ref.output < 0 || (path != std::string::npos && output.compare(0, path + 1, inside) != 0)) continue;
    KeyMaker made;
    made.add(graph.nodes[static_cast<std::size_t>(ref.node)].key).add(ref.output);
    if (graph.surface_of(ref) == SurfaceUse::eye_or_light)
      for (const float x : graph.light) made.add(static_cast<double>(x));
    const Key key = made.key();
    if (const auto it = small_.find(output); it != small_.end() && it->second.first == key) continue;
    if (graph.surface_of(ref) == SurfaceUse::none) {
      wants.emplace_back(ref);
      missing.emplace_back(output, key);
      continue;
    }
    const QImage shown = pictureOnShape(weaver_, graph, ref, kSmallSize, block_, stop);
    if (stop.asked()) return;
    small_[output] = {key, shown};
  }
  // A few at a time, so that a new wish is not kept waiting.
  constexpr std::size_t kBatch = 12;
  for (std::size_t from = 0; from < wants.size() && !stop.asked(); from += kBatch) {
    const std::vector<Want> some(wants.begin() + static_cast<std::ptrdiff_t>(from),
                                 wants.begin() + static_cast<std::ptrdiff_t>(std::min(from + kBatch, wants.size())));
    const auto woven = weaver_.weave(graph, some, kSmallSize, stop);
    if (!woven) return;
    for (std::size_t i = 0; i < some.size(); ++i)
      small_[missing[from + i].first] = {missing[from + i].second, pictureOf(woven->fields[i])};
  }
  if (stop.asked()) return;
  auto all = std::make_shared<std::map<std::string, QImage>>();
  for (auto it = small_.begin(); it != small_.end();) {
    if (graph.outputs.count(it->first))
      (*all)[it->first] = *it->second.second, ++it;
    else
      it = small_.erase(it);
  }
  Q_EMIT pictures(all);
}

DrapeEngine::DrapeEngine(QObject* parent)
    : QObject(parent), worker_([this](const Job& job, const Stop& stop) { run(job, stop); }) {}

void DrapeEngine::run(const Job& job, const Stop& stop) {
  const DrapeView& view = job.view;
  if (!job.outfit || view.width <= 0 || view.height <= 0) return;
  Drape drape(job.outfit.on(view.parts()), view);
  const auto show = [&](int samples) {
    const auto rgb = drape.picture();
    Q_EMIT picture(QImage(rgb.data(), view.width, view.height, view.width * 3, QImage::Format_RGB888).copy(), samples,
                   drape.noise().value_or(0));
  };
  // The first answer is never cancelled; what refines it gives way to the next wish.
  const int step = Drape::quick_step(view);
  drape.first_answer(step, Stop{}, &sight_);
  show(0);
  if (step > 1 && !stop.asked()) {
    drape.first_answer(1, stop);
    if (!stop.asked()) show(0);
  }
  if (view.contours.any() && !stop.asked()) {
    drape.find_contours(stop);
    if (!stop.asked()) show(0);
  }
  for (int i = 1; i <= view.samples && !stop.asked(); ++i) {
    drape.add_sample(stop);
    if (!stop.asked() && (i == 4 || i % 8 == 0 || i == view.samples)) show(i);
  }
}

}  // namespace loom::app

#include "moc_engine.cpp"
