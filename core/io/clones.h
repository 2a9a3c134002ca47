// Loops that are compiled for several processors.
#pragma once

// GCC compiles what follows for each of these and picks one when the program starts; no result depends on it.
#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) && !defined(__SANITIZE_ADDRESS__) && \
    !defined(__SANITIZE_THREAD__)
#define LOOM_CLONES __attribute__((target_clones("arch=x86-64-v4", "arch=x86-64-v3", "default")))
#else
#define LOOM_CLONES
#endif
