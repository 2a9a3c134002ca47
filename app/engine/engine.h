// Evaluation off the interface thread: the latest wish wins, a pass at 256 always completes, idle passes make the small
// pictures.
#pragma once
#include <QImage>
#include <QObject>
#include <QPointF>
#include <array>
#include <map>
#include <memory>
#include <optional>

#include "app/base/kept_image.h"
#include "app/base/latest_worker.h"
#include "core/plane/seam.h"
#include "core/surface/laid_out.h"
#include "core/weave/trace.h"
#include "core/weave/weaver.h"

namespace loom::app {

/// How the loupe shows numbers: as they are; negative ones blue and positive ones red about white; or with what lies
/// outside of 0..1 (of a normal: what is not of length 1) marked. Arrows are laid over what is plain, for normals and
/// vectors.
enum class Look { plain, about_zero, marked, arrows };

/// What a hem gives.
struct SeenHem {
  std::shared_ptr<const SurfaceMaps> maps;
  std::map<std::string, Field> hem;            ///< slots that are maps
  std::map<std::string, QImage> hem_pictures;  ///< small ones, made by the quick pass alone
};

/// What the eye gets from one pass; first of all what the hem of all gives.
struct Seen : SeenHem {
  int size = 0;
  quint64 wish = 0;
  std::map<std::string, SeenHem> parts;  ///< those that have a hem of their own
  /// All hems together.
  Outfit outfit() const {
    Outfit all(maps);
    for (const auto& [part, own] : parts)
      if (own.maps) all.of_part[part] = own.maps;
    return all;
  }
  std::optional<Field> loupe;
  std::string loupe_output;
  /// Where the loupe's output depends on a shape: what it is laid out on. Null: it lies on the tile.
  std::shared_ptr<const ChartedShape> on;
  SurfaceUse loupe_use = SurfaceUse::none;
  std::set<MeshMeasure> loupe_measures;  ///< that it asks for
  KeptImage loupe_picture;
  std::array<int, 64> histogram{};  ///< of the loupe's values over its range
  Range range{0, 0, 0};
  double below = 0, above = 0;          ///< shares of the texels that the range check marks
  std::optional<SeamFigures> seam;      ///< of the worst strand, if asked for
  std::map<std::string, Error> faults;  ///< by node path
  double milliseconds = 0;
  std::size_t nodes = 0;
  std::vector<std::string> paths;         ///< of all nodes
  std::map<std::string, NodeTime> times;  ///< by path: what this pass wove
  bool asks_for_light = false;            ///< some node does: what the tile shows is another when the light turns
};
using SeenPtr = std::shared_ptr<const Seen>;

/// Two states side by side, in the loupe and on the drape. A is what was held first; without a `b`, B is what is live.
enum class Compare { off, a, b, wipe, difference };
struct Comparison {
  Compare how = Compare::off;
  SeenPtr a, b;
  double share = 0.5;              ///< of the picture that A has in a wipe
  int gain = 4;                    ///< of the difference
  std::array<QString, 2> names{};  ///< of the two, as the drape tells them; empty: A and B
};
using Spreads =
    std::shared_ptr<const std::map<std::string, std::vector<float>>>;   ///< by parameter: a value for every unit
using Pictures = std::shared_ptr<const std::map<std::string, QImage>>;  ///< by "NODE.PEG", 128 x 128 or smaller

/// One place followed back through the graph.
struct Followed {
  std::map<std::string, TracedOutput> values;  ///< by the path of the output
  std::vector<std::pair<std::string, double>>
      path;  ///< the pegs in which its threads end, from the output upwards, and their influence
};
using FollowedPtr = std::shared_ptr<const Followed>;

/// A field as a picture: colours sRGB-encoded, data raw, regions as tints. Runs on any thread.
QImage pictureOf(const Field& field, int channel = -1, Look look = Look::plain);
/// An output that depends on the shape, as a ball has it, seen from in front; a block where the shape is measured. Null
/// for what is not of numbers.
/// What is measured of the block is kept in `block` for the next one.
QImage pictureOnShape(Weaver& weaver, const FlatGraph& graph, const OutputRef& output, int size,
                      std::shared_ptr<const MeasuredMesh>& block, const Stop& stop);
/// How far two pictures of one size are apart, channel by channel, times `gain`.
QImage differenceOf(const QImage& a, const QImage& b, int gain);

class Engine : public QObject {
  Q_OBJECT
 public:
  explicit Engine(QObject* parent = nullptr);

  struct Wish {
    Material material;
    std::string loupe;  ///< NODE.PEG, empty: none
    int channel = -1;   ///< of the loupe's picture; -1 all
    int size = kWorkingSize;
    std::string node;  ///< path of the one whose per-unit values are wanted; empty: none
    Look look = Look::plain;
    bool unlit = false;             ///< the drape wears the loupe's output and nothing else
    bool seam = false;              ///< the loupe's output is measured over the edges
    std::optional<QPointF> follow;  ///< a place of the tile to follow back from the loupe's output
    std::string inside;  ///< the instances that the board looks into, "A/B/"; their small pictures are made too
    std::string part;    ///< whose hem closes the board: its small pictures are made; empty: that of all
    Direction light = kLightAtStart;  ///< towards the drape's key light, where a node asks for it
    DrapeView on;                     ///< what the loupe lays an output out on that depends on a shape
  };
  /// Returns at once. Results come by signals, on the interface thread.
  void wish(Wish wish);
  Weaver& weaver() { return weaver_; }
  /// True once nothing is left to do. For tests and pictures of the window.
  bool isIdle() const { return worker_.isIdle(); }

 Q_SIGNALS:
  void seen(loom::app::SeenPtr seen);
  void pictures(loom::app::Pictures pictures);
  void spreads(const std::string& node, loom::app::Spreads spreads);
  void followed(loom::app::FollowedPtr followed);
  void busy(bool busy, const QString& with);
  void weaving(const std::string& path);  ///< the node in work now, a few times a second at most; empty: none
  void refused(const QString& why);       ///< the material cannot be woven at all

 private:
  struct Numbered {
    Wish wish;
    quint64 number;
  };
  void run(const Numbered& job, const Stop& stop);
  bool pass(const FlatGraph& graph, const Wish& wish, quint64 number, int size, const Stop& stop);
  bool layOut(const FlatGraph& graph, const Wish& wish, const OutputRef& output, int size, const Stop& stop,
              Seen& seen);
  std::shared_ptr<const ChartedShape> charted(const std::shared_ptr<const MeshShape>& mesh, int size, const Stop& stop);
  void unitValues(const FlatGraph& graph, const std::string& path, const Stop& stop);
  void follow(const FlatGraph& graph, const Wish& wish, const Stop& stop);
  void smallPictures(const FlatGraph& graph, const std::string& inside, const Stop& stop);

  Weaver weaver_;
  quint64 number_ = 0;
  std::map<std::string, std::pair<Key, KeptImage>> small_;  // the worker's own
  struct Laid {
    std::map<std::string, Field> slots;
    Key over_surface{};  ///< what the slots that depend on the shape are made of
    std::shared_ptr<const SurfaceMaps> maps;
  };
  Result<std::shared_ptr<const SurfaceMaps>> mapsOf(const FlatGraph& graph, const FlatHem& hem, const SeenHem& woven,
                                                    Laid& laid, Seen& seen, const Stop& stop);
  void hemPictures(const FlatGraph& graph, const FlatHem& hem, SeenHem& seen, const Stop& stop);
  Result<Done> lay(const FlatGraph& graph, const Wish& wish, Seen& seen, const Stop& stop);
  Result<std::shared_ptr<const SurfaceMaps>> unlitMaps(const FlatGraph& graph, const Wish& wish, const Seen& seen,
                                                       const Stop& stop);
  std::shared_ptr<const MeshShape> no_charts_;                // whose pieces find no room
  std::vector<std::shared_ptr<const ChartedShape>> charted_;  // the latest last; the worker's own
  std::shared_ptr<const MeasuredMesh> block_;                 // for the small pictures; the worker's own
  std::map<std::pair<int, std::string>, Laid> laid_;          // by size and part: the same planes need no new maps
  LatestWorker<Numbered> worker_;
};

/// The drape's pictures, refined until enough samples have added up.
class DrapeEngine : public QObject {
  Q_OBJECT
 public:
  explicit DrapeEngine(QObject* parent = nullptr);
  void show(const Outfit& outfit, const DrapeView& view) { worker_.ask({outfit, view}); }
  bool isIdle() const { return worker_.isIdle(); }

 Q_SIGNALS:
  /// `noise` is Drape::noise(), 0 before there is one.
  void picture(const QImage& image, int samples, double noise);

 private:
  struct Job {
    Outfit outfit;
    DrapeView view;
  };
  void run(const Job& job, const Stop& stop);
  Drape::Sight sight_;  // of the last first answer
  LatestWorker<Job> worker_;
};

}  // namespace loom::app
Q_DECLARE_METATYPE(loom::app::SeenPtr)
Q_DECLARE_METATYPE(loom::app::Pictures)
Q_DECLARE_METATYPE(loom::app::Spreads)
Q_DECLARE_METATYPE(loom::app::FollowedPtr)
