# One static library a folder of src/, all built the same way.
#
#   otoro_library(roads SOURCES a.cpp b.cpp DEPENDS otoro_geo)
#
# Warnings are errors. Includes are written from src/: #include "roads/network.h".
function(otoro_warnings target)
  target_compile_options(${target} PRIVATE -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Wnon-virtual-dtor -Werror
    $<$<CXX_COMPILER_ID:GNU>:-Wno-restrict;-Wno-stringop-overflow>  # GCC 12 misfires with both inside std::string (bugs 105329, 105651)
    $<$<CXX_COMPILER_ID:Clang>:-Wno-sign-conversion>)  # Clang counts signs among conversions, GCC does not
endfunction()

function(otoro_library name)
  cmake_parse_arguments(ARG "" "" "SOURCES;DEPENDS;PRIVATE_DEPENDS" ${ARGN})
  add_library(otoro_${name} STATIC ${ARG_SOURCES})
  target_include_directories(otoro_${name} PUBLIC ${PROJECT_SOURCE_DIR}/src)
  target_link_libraries(otoro_${name} PUBLIC ${ARG_DEPENDS} PRIVATE ${ARG_PRIVATE_DEPENDS})
  otoro_warnings(otoro_${name})
  target_precompile_headers(otoro_${name} PRIVATE <algorithm> <functional> <memory> <optional> <string> <unordered_map> <vector>)
endfunction()
