# One interface target for warnings and the floating-point rules that keep results the same from build to build.
add_library(wildloom_warnings INTERFACE)
target_compile_options(wildloom_warnings INTERFACE -Wall -Wextra -Wno-missing-field-initializers -Wconversion -Wno-sign-conversion -Wshadow
                                                   -ffp-contract=off)
target_compile_definitions(wildloom_warnings INTERFACE QT_NO_KEYWORDS)
