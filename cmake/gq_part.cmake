# gq_part(NAME SOURCES ... DEPS ... [PRIVATE_DEPS ...])
# One folder is one part, one part is one static library with its dependencies spelled out.
function(gq_part NAME)
  cmake_parse_arguments(PART "" "" "SOURCES;DEPS;PRIVATE_DEPS" ${ARGN})
  add_library(${NAME} STATIC ${PART_SOURCES})
  target_include_directories(${NAME} PUBLIC ${PROJECT_SOURCE_DIR})
  target_link_libraries(${NAME} PUBLIC ${PART_DEPS} PRIVATE ${PART_PRIVATE_DEPS} gq_warnings)
endfunction()

add_library(gq_warnings INTERFACE)
target_compile_options(gq_warnings INTERFACE -Wall -Wextra -Wshadow -Wno-unused-parameter -Wno-missing-field-initializers)
# Loops that say so work on several values at once; roots too, as nobody asks errno about them.
target_compile_options(gq_warnings INTERFACE -fopenmp-simd -fno-math-errno)
