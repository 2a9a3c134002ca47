// The lit picture: a material on a shape, by rays on the processor. A quick answer first, then samples that add up.
#pragma once
#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/base/stop.h"
#include "core/plane/ledger.h"
#include "core/surface/camera.h"
#include "core/surface/contours.h"
#include "core/surface/dresser.h"
#include "core/surface/environment.h"
#include "core/surface/measured.h"
#include "core/surface/mesh_body.h"
#include "core/surface/model.h"
#include "core/surface/sampler.h"

namespace loom {

enum class Background { plain, environment, none };

struct DrapeView {
  ShapeName shape = ShapeName::ball;
  std::shared_ptr<const MeshShape> mesh;         ///< instead of it
  std::shared_ptr<const MeasuredMesh> measured;  ///< of the mesh or the shape, as far as it is known; may be null
  Camera camera = Camera::start(ShapeName::ball);
  int width = 512, height = 512;

  std::string environment = "north_hall";
  std::shared_ptr<const Environment> own;  ///< instead of it, and taken as it is
  float light_degrees = 42;                ///< the key light's azimuth
  float light_height = 48;                 ///< and its height above the horizon, degrees
  float key = 1;                           ///< times the strength that it has in the environment, 0 is off
  float key_size = 3;                      ///< how wide it is seen from the shape, degrees
  /// Takes an environment with its key light.
  void stand_in(std::string_view name) {
    environment = name;
    own = nullptr;
    const KeyLight light = key_light_in(name);
    light_degrees = light.azimuth, light_height = light.height, key_size = light.size;
    key = 1;
  }
  /// The names of the mesh's parts; none on a shape.
  std::span<const std::string> parts() const {
    return mesh ? std::span<const std::string>(mesh->mesh().parts) : std::span<const std::string>();
  }
  float turn = 0;      ///< of the environment, degrees
  float exposure = 0;  ///< stops

  float repeats = 1;        ///< tiles over the tile shape; the others wear tiles pi / 4 as wide
  bool true_scale = false;  ///< a tile is as large on the shape as the material says, whatever `repeats`
  float relief_factor = 1;  ///< times the material's own depth, in this view alone
  bool relief = true, occlusion = true, shadows = true;
  bool glow = true;  ///< what gives more light than white spreads some of it over the picture

  Background background = Background::plain;
  Vec3 ground{0.181f, 0.181f, 0.181f};  ///< the plain background as it is shown, linear
  Contours contours;                    ///< lines over the picture, where any is switched on
  bool unlit = false;                   ///< the base colour alone, as it is whatever the exposure
  int samples = 64;                     ///< after which the picture is left as it is
};

/// Whether a relief is deeper than can stand on the view's mesh: only its normals are lit then.
bool is_too_deep(const Worn& worn, const DrapeView& view);
/// What the view shows, wearing the materials; and where its eye is.
std::unique_ptr<const Body> body_of(const Worn& worn, const DrapeView& view);
Vec3 eye_of(const DrapeView& view, const Body& body);

/// What the materials ask of the mesh or the shape, at so many points. What view.measured
/// knows as well is not measured again. Null where nothing is asked.   Error  cancelled.
Result<std::shared_ptr<const MeasuredMesh>> measured_for(const Worn& worn, const DrapeView& view, const Stop& stop,
                                                         const std::function<void(double)>& progress = {},
                                                         std::size_t points = kFinePoints);

/// One picture in the making. Not shared between threads; each call uses all cores. Two runs give the same bits.
class Drape {
 public:
  Drape(Worn worn, const DrapeView& view);

  /// What the places of a first answer see, before any light. Kept from one to the next, also of another Drape, nothing
  /// but shadows is traced anew while light and exposure alone change.
  class Sight;
  /// The first answer: image-based light by the split sum, and the key light with a hard shadow, without noise.
  /// `step` > 1 shades every step-th pixel and blends between them. `kept`, if given, is read where it holds what this
  /// one sees, else filled with it; the picture is the same.
  void first_answer(int step, const Stop& stop, Sight* kept = nullptr);
  /// Finds the lines of `view.contours`; the pictures have them from then on.
  void find_contours(const Stop& stop);
  /// One more sample a pixel: paths of up to three places, at the first, environment, key light and surface sampled
  /// together by multiple importance. Source: Veach, "Robust Monte Carlo Methods for Light Transport Simulation", 1997.
  void add_sample(const Stop& stop);
  /// What a place of the picture shows; none where it shows the surroundings.
  std::optional<Body::Hit> under(float px, float py) const;
  /// The step at which the first answer comes in a few milliseconds: about 16 000 shaded places.
  static int quick_step(const DrapeView& view);
  int samples() const { return samples_; }
  /// How far the picture is from its end: the mean over all pixels of the standard error of their luminance, as a share
  /// of it. Nothing before the second sample.
  std::optional<double> noise() const;

  /// sRGB-encoded, 3 bytes a pixel. At exposure 0 a grey of 0.18 that faces the key light shows as 118; above 0.6
  /// radiance rolls off towards 1.
  std::vector<std::uint8_t> picture() const;
  /// The same with straight alpha: 4 bytes a pixel.
  std::vector<std::uint8_t> picture_with_alpha() const;
  /// Linear radiance before exposure and roll-off, premultiplied, and how much of a pixel the shape covers: 4 floats a
  /// pixel.
  std::vector<float> radiance() const;
  const DrapeView& view() const { return view_; }
  const Body& body() const { return *body_; }
  /// From the eye through a place of the picture, in pixels.
  Ray ray(float px, float py) const;
  /// Where the picture shows a place in space, in pixels; none if it lies behind the eye.
  std::optional<std::array<float, 2>> shown_at(Vec3 place) const;

 private:
  struct Lit {
    Vec3 light;
    float alpha;
  };
  void lay_film();
  std::vector<Vec3> shown() const;  // the mean of all samples, with its glow
  struct Point {                    // a place of the surface, ready to be lit
    SurfaceMaps::Point maps;
    Vec3 normal, facet, along;
    Body::Start off;
    Vec3 behind;  // as far off on the other side of a sheet
  };
  struct Lane {  // one place of the picture on its way
    Ray ray;
    Body::Width width;
    std::optional<Body::Hit> hit{};  // none: `lit` is done
    Point point{};
    Lit lit{};
    Vec3 through{1, 1, 1};
    std::uint32_t pixel = 0;
    Sampler::Pair chance{};  // of going through openings: the ray, the shadow
  };
  void dress(std::span<Lane> lanes) const;
  void want_maps(float stride) const;
  void bend_to_eye(Lane& lane) const;
  float footprint(const Lane& lane) const;
  Body::Width pixel() const { return {0, pixel_}; }

  Vec3 turned(Vec3 d) const;  // into the environment's own directions
  Vec3 turned_back(Vec3 d) const;
  bool shadowed(const Vec3& from, Vec3 towards, Body::Width width, float chance) const;
  bool reaches(const Point& p, const Reflector& r, Vec3 towards, Body::Width width, float chance) const;
  Vec3 key_light(const Point& p, const Reflector& r, Vec3 towards, Body::Width width, float chance) const;
  std::optional<float> floor_ahead(const Ray& ray) const;
  Lit background(const Ray& ray) const;
  Lit surroundings(const Ray& ray, Vec3 to_key) const;
  Vec3 mirrored(const Reflector& r) const;
  Vec3 under_sky(const Point& p, const Reflector& r) const;
  Lane lane_at(int column, int row, int step) const;
  void see(std::span<Lane> lanes) const;
  void light(std::span<Lane> lanes) const;
  void spread(const std::vector<Lit>& coarse, int step, const Stop& stop);
  void paths(std::span<Lane> lanes, const Sampler& sampler) const;
  void go_on(Lane& lane, std::size_t place, const Sampler& sampler) const;
  Vec3 sky_light(const Point& p, const Reflector& r, Sampler::Pair pair, Body::Width width, float chance) const;
  float floor_shade(Vec3 place, Vec3 to_key) const;
  Vec3 within_key(Sampler::Pair pair) const;

  Worn worn_;
  DrapeView view_;
  std::unique_ptr<const Body> body_;
  Dresser dresser_;
  std::shared_ptr<const Environment> environment_;
  float light_scale_ = 1;  // of the environment and the key light
  Vec3 key_;               // its irradiance
  float turn_sine_, turn_cosine_;
  Vec3 eye_, right_, up_, forward_, light_;
  Frame about_light_;
  float key_radius_;  // of the key light's disc, a metre away
  float pixel_;       // how wide one is, a metre away
  Vec3 plain_;        // the plain background, before exposure and roll-off
  float sky_over_floor_, key_on_floor_;
  std::optional<ContourLines> contours_;
  std::vector<Lit> sum_;
  std::vector<float> squares_;  // of luminance
  Booked booked_;               // both
  int samples_ = 0;
};

/// Not shared between threads.
class Drape::Sight {
  friend class Drape;
  bool holds(const Worn& worn, const DrapeView& view, int step) const;
  void make_room(std::size_t places);

  std::optional<Worn> worn_;  // none: nothing is held
  DrapeView view_;
  int step_ = 0;
  std::vector<Lane> lanes_;
  Booked booked_;
};

}  // namespace loom
