// What is held of Embree, and a ray as it takes it.
#pragma once
#include <embree3/rtcore.h>

#include "core/base/vec3.h"
#include "core/plane/ledger.h"

namespace loom {

struct EmbreeScene {
  RTCDevice device = rtcNewDevice(nullptr);
  RTCScene scene = rtcNewScene(device);
  Booked bytes;
  EmbreeScene() { rtcSetSceneFlags(scene, RTC_SCENE_FLAG_ROBUST); }
  ~EmbreeScene() {
    rtcReleaseScene(scene);
    rtcReleaseDevice(device);
  }
  EmbreeScene(const EmbreeScene&) = delete;
  /// The only thing in it.
  void hold(RTCGeometry geometry) {
    rtcCommitGeometry(geometry);
    rtcAttachGeometry(scene, geometry);
    rtcReleaseGeometry(geometry);
    rtcCommitScene(scene);
  }
};

inline RTCRay embree_ray(const Ray& ray, float from, float to) {
  RTCRay r{};
  r.org_x = ray.from.x, r.org_y = ray.from.y, r.org_z = ray.from.z;
  r.dir_x = ray.towards.x, r.dir_y = ray.towards.y, r.dir_z = ray.towards.z;
  r.tnear = from;
  r.tfar = to;
  r.mask = ~0u;
  return r;
}

}  // namespace loom
