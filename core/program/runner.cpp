// Runs programs: rows over the cores, strips along a row, one kernel call an instruction.
#include <algorithm>
#include <cstring>
#include <memory>
#include <vector>

#include "core/base/parallel.h"
#include "core/program/kernels.h"
#include "core/program/program.h"

namespace loom {
namespace {

constexpr std::size_t kConstantLanes = 16;  // the widest vector of floats

struct Free {
  void operator()(float* p) const { std::free(p); }
};

// The registers and constants of one thread, and every call made ready, so that a strip costs only the kernels
// themselves.
class Frame {
 public:
  Frame(const Program& program, std::size_t longest)
      : pitch_(longest + kPad),
        registers_(alloc(static_cast<std::size_t>(program.registers) * pitch_ + 16)),
        constants_(alloc(program.constants.size() * kConstantLanes + 16)) {
    for (std::size_t i = 0; i < program.constants.size(); ++i)
      std::fill_n(constants_.get() + i * kConstantLanes, kConstantLanes, program.constants[i]);
    prepare(program);
  }
  Strip strip{};
  std::vector<StripCall> calls;
  std::vector<const float*> stores;  // what each store step copies

  /// Points what reads planes at their texels from (x, y) on.
  void read(const Program& program, int y, std::size_t x) {
    for (const Read& r : reads_) {
      const float* row = program.planes[r.plane]->row(y) + x;
      (r.call < calls.size() ? calls[r.call].source[r.operand] : stores[r.operand]) = row;
    }
  }

 private:
  // Registers that lie whole pages apart would make every load wait for the store of another.
  static constexpr std::size_t kPad = 32;
  static constexpr std::uint32_t kNoPlane = 0xffffffff;
  struct Read {
    std::size_t call, operand;
    std::uint32_t plane;
  };  // `call` past the end: a store step

  // A loaded plane is read where it lies: its register stands for the row until something else is written there.
  void prepare(const Program& program) {
    std::vector<std::uint32_t> plane_in(static_cast<std::size_t>(program.registers), kNoPlane);
    const auto source = [&](std::uint16_t s, std::size_t call, std::size_t operand) -> const float* {
      if (s & kConstantBit) return constants_.get() + static_cast<std::size_t>(s & 0x7fff) * kConstantLanes;
      if (plane_in[s] != kNoPlane) reads_.push_back({call, operand, plane_in[s]});
      return registers_.get() + s * pitch_;
    };
    for (const Instruction& step : program.code) {
      if (step.op == Op::load) {
        plane_in[step.result[0]] = step.aux;
        continue;
      }
      StripCall c{};
      c.step = &step;
      c.strip = &strip;
      for (std::size_t k = 0; k < step.sources; ++k) {
        c.source[k] = source(step.source[k], calls.size(), k);
        c.stride[k] = step.source[k] & kConstantBit ? 0 : 1;
      }
      for (std::size_t k = 0; k < step.results; ++k) {
        plane_in[step.result[k]] = kNoPlane;
        c.result[k] = registers_.get() + step.result[k] * pitch_;
      }
      if (step.op == Op::family) c.resource = program.resources[step.aux].get();
      calls.push_back(c);
    }
    for (std::size_t i = 0; i < program.stores.size(); ++i)
      stores.push_back(source(program.stores[i].from, kStoreStep, i));
  }

  static constexpr std::size_t kStoreStep = ~std::size_t{0};
  static std::unique_ptr<float[], Free> alloc(std::size_t floats) {
    const std::size_t bytes = (floats * sizeof(float) + 127) / 64 * 64;
    auto* p = static_cast<float*>(aligned_memory(64, bytes));
    std::memset(p, 0, bytes);
    return std::unique_ptr<float[], Free>(p);
  }
  std::size_t pitch_;
  std::unique_ptr<float[], Free> registers_, constants_;
  std::vector<Read> reads_;
};

std::size_t rounded(std::size_t n) { return (n + 15) / 16 * 16; }

}  // namespace

void run_texels(const Program& program, int size, std::span<Plane* const> outputs, const Stop& stop) {
  const std::size_t strip = std::min<std::size_t>(kStrip, static_cast<std::size_t>(size));
  const float texel = 1.0f / static_cast<float>(size);
  const int grain = std::clamp(65536 / size, 1, std::max(1, size / 8));
  for_rows(size, grain, stop, [&](int first, int last) {
    Frame mine(program, strip);
    for (StripCall& c : mine.calls) c.padded = strip;
    // Strips below one another: what reads a map elsewhere finds there what the row above has fetched.
    for (std::size_t x = 0; x < static_cast<std::size_t>(size); x += strip) {
      for (int y = first; y < last && !stop.asked(); ++y) {
        mine.strip = {(static_cast<float>(x) + 0.5f) * texel, texel, (static_cast<float>(y) + 0.5f) * texel};
        mine.read(program, y, x);
        for (const StripCall& c : mine.calls) run_kernel(c);
        for (std::size_t i = 0; i < program.stores.size(); ++i)
          if (Plane* out = outputs[program.stores[i].output]) {
            if (program.stores[i].from & kConstantBit)
              std::fill_n(out->row(y) + x, strip, *mine.stores[i]);
            else
              stream_row(mine.stores[i], strip, out->row(y) + x);
          }
      }
    }
  });
}

namespace {

// `n` samples from `x` on.
void run_strip(const Program& program, Frame& frame, std::size_t x, std::size_t n,
               std::span<const float* const> attributes, std::span<float* const> outputs) {
  for (StripCall& c : frame.calls) {
    c.padded = rounded(n);
    if (c.step->op != Op::attribute) {
      run_kernel(c);
      continue;
    }
    std::memcpy(c.result[0], attributes[c.step->aux] + x, n * sizeof(float));
    std::fill(c.result[0] + n, c.result[0] + rounded(n), 0.0f);
  }
  for (std::size_t i = 0; i < program.stores.size(); ++i) {
    float* to = outputs[program.stores[i].output] + x;
    if (program.stores[i].from & kConstantBit)
      std::fill_n(to, n, *frame.stores[i]);
    else
      std::memcpy(to, frame.stores[i], n * sizeof(float));
  }
}

}  // namespace

void run_samples(const Program& program, std::size_t count, std::span<const float* const> attributes,
                 std::span<float* const> outputs, const Stop& stop) {
  const std::size_t strips = (count + kStrip - 1) / kStrip;
  const auto run = [&](std::size_t first, std::size_t last) {
    Frame frame(program, std::min(kStrip, rounded(count)));
    for (std::size_t s = first; s < last && !stop.asked(); ++s)
      run_strip(program, frame, s * kStrip, std::min(kStrip, count - s * kStrip), attributes, outputs);
  };
  if (strips <= 2)
    run(0, strips);  // constants are folded this way: not worth a task
  else
    for_rows(static_cast<int>(strips), 4, stop,
             [&](int first, int last) { run(static_cast<std::size_t>(first), static_cast<std::size_t>(last)); });
}

struct StripRunner::Ready {
  const Program& program;
  Frame frame;
};

StripRunner::StripRunner(const Program& program, std::size_t most)
    : ready_(std::make_unique<Ready>(Ready{program, Frame(program, rounded(most))})) {}
StripRunner::~StripRunner() = default;
StripRunner::StripRunner(StripRunner&&) noexcept = default;

void StripRunner::run(std::size_t count, std::span<const float* const> attributes, std::span<float* const> outputs) {
  run_strip(ready_->program, ready_->frame, 0, count, attributes, outputs);
}

}  // namespace loom
