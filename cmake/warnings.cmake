# One interface target for warnings and the floating-point rules that keep results the same from build to build.
add_library(wildloom_warnings INTERFACE)
target_compile_options(wildloom_warnings INTERFACE -Wall -Wextra -Wno-missing-field-initializers -Wconversion -Wno-sign-conversion -Wshadow
                                                   -ffp-contract=off)
option(WILDLOOM_STRICT "Warnings are errors; on in the presets" OFF)
if(WILDLOOM_STRICT)
  target_compile_options(wildloom_warnings INTERFACE -Werror)
endif()
# GCC 12 takes concatenated strings for overlapping memory (its bug 105651).
if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
  target_compile_options(wildloom_warnings INTERFACE $<$<COMPILE_LANGUAGE:CXX>:-Wno-restrict>)
endif()
target_compile_definitions(wildloom_warnings INTERFACE QT_NO_KEYWORDS)
