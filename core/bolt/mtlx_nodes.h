// A program over the points of a surface as nodes of a MaterialX graph: what the standard has a node for becomes that
// node, a look-up in a plane an image. Three numbers that go the same way go it as one colour or vector.
// Source: MaterialX specification 1.39, "Standard Nodes", and its data library of 1.39.4 for what takes which types.
#pragma once
#include <functional>
#include <map>
#include <optional>
#include <pugixml.hpp>
#include <set>
#include <string>
#include <vector>

#include "core/program/program.h"
#include "core/program/resources.h"
#include "core/program/surface_points.h"

namespace loom::mtlx {

/// What the nodes are to know of the material.
struct Surroundings {
  float tile_metres = 1;
  int size = 1024;  ///< of the planes, texels
  Direction light = kLightAtStart;
  std::function<std::string(int origin)> name;  ///< how the nodes are called that stand for a node of ours
  /// What one plane or three are called, and the name of the file that holds them as floats.
  std::function<std::pair<std::string, std::string>(const std::vector<PlanePtr>& planes, int origin)> file;
};

class Nodes {
 public:
  Nodes(const Program& program, pugi::xml_node graph, Surroundings around);

  struct Hindrance {
    std::string what;  ///< that the standard has no node for, in words
    int origin;
  };
  /// Why an output of the program cannot be carried; nothing where it can.
  std::optional<Hindrance> hindrance(std::size_t output) const;
  /// Adds what gives one output, or three from `first` on as a `type` of color3 or vector3; the last node's name.
  std::string number(std::size_t output);
  std::string three(std::size_t first, const std::string& type);
  /// A map's normal, -1..1 along its own axes, turned into world space.
  std::string normal(std::size_t first);
  /// Whether the key light's direction stands in the graph, as a constant.
  bool holds_light() const { return geometry_.count("towards_light") != 0; }

 private:
  struct Operand {
    bool constant = true;
    float value = 0;
    std::uint32_t id = 0;  ///< instruction << 2 | result
    friend bool operator==(const Operand&, const Operand&) = default;
  };
  /// One number, or three that are alike in kind.
  struct Bundle {
    std::array<Operand, 3> of{};
    std::size_t width = 1;
  };
  /// What stands for one: constants, or a node, which may be a single number for all three.
  struct Value {
    std::string node;
    std::string type = "float";
    std::array<float, 3> constant{};
  };

  Operand source(std::uint32_t instruction, std::size_t k) const { return sources_[instruction][k]; }
  const Instruction* made_by(const Operand& o) const { return o.constant ? nullptr : &program_.code[o.id >> 2]; }
  Bundle operands(const Bundle& b, std::size_t k) const;
  static bool is_one(const Bundle& b);
  static Bundle narrowed(const Bundle& b) { return is_one(b) ? Bundle{{b.of[0]}, 1} : b; }
  std::optional<std::array<float, 3>> constants(const Bundle& b) const;

  static std::string key_of(const Bundle& b, const std::string& type);
  std::vector<Bundle> read_by(const Bundle& b, const std::string& type) const;
  Value value(const Bundle& wanted, const std::string& type);
  Value made(const Bundle& b, const std::string& type);
  Value one_of_geometry(std::uint32_t attribute);
  Value maths(const Bundle& b, const Instruction& i, const std::string& type);
  Value divided(const Bundle& b, const std::string& type, const char* does);
  Value power(const Bundle& b, const std::string& type);
  Value chosen(const Bundle& b, const std::string& type);
  Value smooth(const Bundle& b, const std::string& type);
  Value curve(const Bundle& b, const std::string& type);
  Value looked_up(const Bundle& b, const std::string& type);
  std::optional<Value> clamped(const Bundle& b, const std::string& type);
  std::optional<Value> mixed(const Bundle& b, const std::string& type);
  bool lifts(const Bundle& b, const std::string& type) const;
  bool lifts_operands(const Bundle& b, Op op, const std::string& type) const;
  bool same_knots(const Bundle& b) const;

  // Nodes.
  Value add(const std::string& does, const std::string& type,
            const std::vector<std::pair<const char*, std::pair<std::string, Value>>>& inputs);
  Value one(const std::string& does, const std::string& type, const Value& in);
  Value two(const std::string& does, const std::string& type, Value a, Value b);
  Value whether(const char* does, const Value& x, const Value& y, const Value& yes, const Value& no,
                const std::string& type);
  void give(pugi::xml_node to, const char* input, const std::string& type, const Value& v);
  std::string node_of(const Value& v, const std::string& type);
  std::string unique(const std::string& name);
  static Value fixed(float x) { return {"", "float", {x, x, x}}; }
  const CurveTable& table(const Operand& o) const {
    return static_cast<const CurveTable&>(*program_.resources[made_by(o)->aux]);
  }

  const Program& program_;
  pugi::xml_node graph_;
  Surroundings around_;
  std::vector<std::array<Operand, kMostSources>> sources_;
  std::vector<Operand> outputs_;
  std::vector<int> hindered_;  // by instruction: which one is in its way; -1: none
  int origin_ = -1;            // of what is added
  std::map<std::string, Value> known_, geometry_;
  std::set<std::string> names_;
};

}  // namespace loom::mtlx
