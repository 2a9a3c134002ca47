// Runs programs: rows over the cores, strips along a row, one kernel call an instruction.
#include <algorithm>
#include <cstring>
#include <memory>

#include "core/base/parallel.h"
#include "core/program/kernels.h"
#include "core/program/program.h"

namespace loom {
namespace {

constexpr std::size_t kConstantLanes = 16;  // the widest vector of floats

struct Free { void operator()(float* p) const { std::free(p); } };

// The registers and constants of one thread.
class Frame {
 public:
  explicit Frame(const Program& program, std::size_t strip)
      : strip_(strip), registers_(alloc(static_cast<std::size_t>(program.registers) * strip + 16)),
        constants_(alloc(program.constants.size() * kConstantLanes + 16)) {
    for (std::size_t i = 0; i < program.constants.size(); ++i)
      std::fill_n(constants_.get() + i * kConstantLanes, kConstantLanes, program.constants[i]);
  }
  float* reg(std::uint16_t r) { return registers_.get() + r * strip_; }
  const float* source(std::uint16_t s) {
    return s & kConstantBit ? constants_.get() + static_cast<std::size_t>(s & 0x7fff) * kConstantLanes : reg(s);
  }

 private:
  static std::unique_ptr<float[], Free> alloc(std::size_t floats) {
    const std::size_t bytes = (floats * sizeof(float) + 127) / 64 * 64;
    auto* p = static_cast<float*>(std::aligned_alloc(64, bytes));
    std::memset(p, 0, bytes);
    return std::unique_ptr<float[], Free>(p);
  }
  std::size_t strip_;
  std::unique_ptr<float[], Free> registers_, constants_;
};

struct Where { std::size_t padded; float first_u, du, v; };

void call(const Program& program, const Instruction& step, Frame& frame, const Where& where) {
  StripCall c{};
  c.step = &step;
  c.padded = where.padded;
  for (std::size_t k = 0; k < step.sources; ++k) {
    c.source[k] = frame.source(step.source[k]);
    c.stride[k] = step.source[k] & kConstantBit ? 0 : 1;
  }
  for (std::size_t k = 0; k < step.results; ++k) c.result[k] = frame.reg(step.result[k]);
  if (step.op >= Op::curve) c.resource = program.resources[step.aux].get();
  c.first_u = where.first_u;
  c.du = where.du;
  c.v = where.v;
  run_kernel(c);
}

std::size_t rounded(std::size_t n) { return (n + 15) / 16 * 16; }

}  // namespace

void run_texels(const Program& program, int size, std::span<Plane* const> outputs, const Stop& stop) {
  const std::size_t strip = std::min<std::size_t>(kStrip, static_cast<std::size_t>(size));
  const float texel = 1.0f / static_cast<float>(size);
  const int grain = std::clamp(65536 / size, 1, std::max(1, size / 8));
  for_rows(size, grain, stop, [&](int first, int last) {
    Frame mine(program, strip);
    for (int y = first; y < last && !stop.asked(); ++y) {
      for (std::size_t x = 0; x < static_cast<std::size_t>(size); x += strip) {
        const Where where{strip, (static_cast<float>(x) + 0.5f) * texel, texel, (static_cast<float>(y) + 0.5f) * texel};
        for (const Instruction& step : program.code) {
          if (step.op == Op::load) std::memcpy(mine.reg(step.result[0]), program.planes[step.aux]->row(y) + x, strip * sizeof(float));
          else call(program, step, mine, where);
        }
        for (const StoreStep& s : program.stores)
          if (Plane* out = outputs[s.output]) {
            if (s.from & kConstantBit) std::fill_n(out->row(y) + x, strip, *mine.source(s.from));
            else stream_row(mine.source(s.from), strip, out->row(y) + x);
          }
      }
    }
  });
}

void run_samples(const Program& program, std::size_t count, std::span<const float* const> attributes,
                 std::span<float* const> outputs) {
  Frame frame(program, kStrip);
  for (std::size_t x = 0; x < count; x += kStrip) {
    const std::size_t n = std::min(kStrip, count - x);
    for (const Instruction& step : program.code) {
      if (step.op == Op::attribute) {
        float* to = frame.reg(step.result[0]);
        std::memcpy(to, attributes[step.aux] + x, n * sizeof(float));
        std::fill(to + n, to + rounded(n), 0.0f);
      } else {
        call(program, step, frame, {rounded(n), 0, 0, 0});
      }
    }
    for (const StoreStep& s : program.stores) {
      if (s.from & kConstantBit) std::fill_n(outputs[s.output] + x, n, *frame.source(s.from));
      else std::memcpy(outputs[s.output] + x, frame.source(s.from), n * sizeof(float));
    }
  }
}

}  // namespace loom
