// The kernels behind the instructions, compiled for each instruction set and chosen at run time.
#pragma once
#include "core/program/program.h"

namespace loom {

/// Runs one instruction over one strip.
void run_kernel(const StripCall& call);

/// Copies to memory that will not be read soon, past the caches. `to` is 64-byte aligned, `count` a multiple of 16.
void stream_row(const float* from, std::size_t count, float* to);

// The families, each in its own file.
void run_maths(const StripCall& call);
void run_gradient_noise(const StripCall& call);
void run_cells(const StripCall& call);
void run_speckle(const StripCall& call);
void run_solid(const StripCall& call);
void run_units(const StripCall& call);
void run_sample(const StripCall& call);

}  // namespace loom
