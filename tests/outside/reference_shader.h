// Runs a shader that the MaterialX reference library made, by Mesa's software renderer, at single places.
#pragma once
#include <QJsonObject>
#include <QString>
#include <array>
#include <optional>
#include <vector>

namespace loom::test {

/// What a shader knows of one place; the standard's texture coordinates run up.
struct ShadedPlace {
  std::array<float, 2> texcoord{};
  std::array<float, 3> position{}, normal{0, 0, 1}, tangent{1, 0, 0}, bitangent{0, 1, 0};
};

class ShaderRunner {
 public:
  ShaderRunner();
  ~ShaderRunner();
  ShaderRunner(const ShaderRunner&) = delete;
  ShaderRunner& operator=(const ShaderRunner&) = delete;
  /// Whether there is a renderer.
  bool isReady() const { return context_ != nullptr; }
  /// What the shader gives at the places, seen from `eye`. Images are read from `folder`, texel by texel. `why` is said
  /// where nothing comes.
  std::optional<std::vector<std::array<float, 4>>> run(const QByteArray& fragment, const QJsonObject& uniforms,
                                                       const QString& folder, const std::vector<ShadedPlace>& places,
                                                       const std::array<float, 3>& eye, QString& why);

 private:
  void *display_ = nullptr, *context_ = nullptr;
};

}  // namespace loom::test
