// The strip program: one list of instructions that runs over strips of samples (structure of arrays, SIMD, in cache).
#pragma once
#include <array>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <span>
#include <string_view>
#include <utility>
#include <vector>

#include "core/base/stop.h"
#include "core/plane/plane.h"
#include "core/program/mesh_measure.h"

namespace loom {

/// What an instruction does. Functions are total: x/0, the logarithm of 0 or less, roots of negatives and the
/// direction of a zero vector give 0.
enum class Op : std::uint8_t {
  // sources
  constant,
  attribute,
  texel_u,
  texel_v,
  load,
  same,  ///< only while building: its operand under another name
  // one operand
  negate,
  absolute,
  floor,
  ceiling,
  round,
  fraction,
  root,
  exponential,
  logarithm,
  sine,
  cosine,
  tangent,
  arcsine,
  arccosine,
  arctangent,
  sign,
  // two operands
  add,
  subtract,
  multiply,
  divide,
  minimum,
  maximum,
  power,
  modulo,
  arctangent2,
  less,
  greater,
  less_equal,
  equal,
  // three operands
  select,
  multiply_add,
  smoothstep,
  // others
  random,  ///< key bits -> [0, 1)
  family,  ///< one of a family of instructions, with its table
};

/// What a program may read besides its strips: immutable tables that were made before it runs.
struct Resource {
  virtual ~Resource() = default;
  /// What it holds beside planes.
  virtual std::size_t bytes() const { return 0; }
};

/// A value in a program that is being built.
struct Reg {
  std::uint32_t id = 0;
  friend bool operator==(Reg, Reg) = default;
};
/// The derivatives of a value along the tile's u and v.
using Slopes = std::pair<Reg, Reg>;
class Builder;
struct StripCall;
using ResourcePtr = std::shared_ptr<const Resource>;

/// One family of instructions: registered once, beside its kernel; no other place knows of it.
struct Family {
  std::string_view name;
  void (*run)(const StripCall&);
  /// How many of its first operands are the place over which it varies: the default derivative takes differences there.
  int places = 0;
  /// Bit i: result i is level between jumps (an index, a tone), its derivative is 0.
  unsigned level = 0;
  /// The derivative of one result, where the method knows better than differences.
  Slopes (*slope)(Builder&, std::span<const Reg> sources, const ResourcePtr& table, int result) = nullptr;
};

/// A source operand's index has this bit when it names a constant and not a register.
constexpr std::uint16_t kConstantBit = 0x8000;

constexpr std::size_t kMostSources = 8, kMostResults = 4;

struct Instruction {
  Op op{};
  const Family* family = nullptr;
  std::uint8_t sources = 0, results = 0;
  std::array<std::uint16_t, kMostSources> source{};
  std::array<std::uint16_t, kMostResults> result{};
  std::uint32_t aux = 0;  ///< attribute, plane, resource or random stream
  bool plain = false;     ///< its first two operands are the texel's own position: rows may be taken as a whole
};

/// Register `from` holds output `output`.
struct StoreStep {
  std::uint16_t from;
  std::uint16_t output;
};

struct Program {
  std::vector<Instruction> code;
  std::vector<int> origins;  ///< of each instruction, see Builder::set_origin
  std::vector<float> constants;
  std::vector<StoreStep> stores;
  std::vector<PlanePtr> planes;  ///< read texel by texel
  std::vector<std::shared_ptr<const Resource>> resources;
  std::vector<MeshMeasure> measures;  ///< whose numbers are attributes, one after another, behind those of the surface
  int registers = 0;
  int outputs = 0;
};

/// Samples a strip: a whole number of vectors of every instruction set.
constexpr std::size_t kStrip = 1024;

/// Where a strip of texels lies: its first u, its step and its v.
struct Strip {
  float first_u, du, v;
};

/// What a kernel gets: `padded` is a multiple of 16. A constant's step is 0, so that it costs no memory traffic.
struct StripCall {
  const Instruction* step;
  std::array<const float*, kMostSources> source;
  std::array<std::size_t, kMostSources> stride;
  std::array<float*, kMostResults> result;
  std::size_t padded;
  const Resource* resource;
  const Strip* strip;
};

/// Runs over the texels of a tile. `outputs[i]` has size `size` (or is null: not wanted).
/// Bits    independent of the number of threads.   Error  stops early when `stop` is asked; planes are then
/// unspecified.
void run_texels(const Program& program, int size, std::span<Plane* const> outputs, const Stop& stop);

/// Runs over `count` samples with the given attribute arrays, over all cores where they are many; `outputs[i]` has room
/// for `count` floats.   Bits, Error  as above.
void run_samples(const Program& program, std::size_t count, std::span<const float* const> attributes,
                 std::span<float* const> outputs, const Stop& stop);

/// A program made ready to run over a few samples again and again, by one thread at a time.
class StripRunner {
 public:
  /// The program must outlive this; `most` samples at a time.
  StripRunner(const Program& program, std::size_t most);
  ~StripRunner();
  StripRunner(StripRunner&&) noexcept;
  /// As run_samples.
  void run(std::size_t count, std::span<const float* const> attributes, std::span<float* const> outputs);

 private:
  struct Ready;
  std::unique_ptr<Ready> ready_;
};

/// Whether an operation depends only on its operands, so that constants can be folded through it.
constexpr bool is_maths(Op op) { return op >= Op::negate && op <= Op::smoothstep; }

}  // namespace loom
