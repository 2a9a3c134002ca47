// The kernels behind the instructions, compiled for each instruction set and chosen at run time.
#pragma once
#include "core/program/program.h"

namespace loom {

/// Runs one instruction over one strip.
void run_kernel(const StripCall& call);

/// Copies to memory that will not be read soon, past the caches. `to` is 64-byte aligned, `count` a multiple of 16.
void stream_row(const float* from, std::size_t count, float* to);

}  // namespace loom
