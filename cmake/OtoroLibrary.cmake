# One static library a folder of src/, all built the same way.
#
#   otoro_library(roads SOURCES a.cpp b.cpp DEPENDS otoro_geo)
#
# Warnings are errors. Includes are written from src/: #include "roads/network.h".
#
# What compiling costs is mostly reading what others wrote, again for every file. So each library has one precompiled
# header of what is large and foreign, and several of its files are compiled as one (TOGETHER of them; 1: each alone).
# A larger number builds sooner from nothing and slower after a change of one file: docs/measurements.md has both.
# OTORO_EACH_FILE_ALONE compiles every file by itself and without precompiled headers, as tools that look at one file
# want it.
option(OTORO_EACH_FILE_ALONE "Compile each file by itself, with nothing but what it includes" OFF)

function(otoro_warnings target)
  target_compile_options(${target} PRIVATE -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Wnon-virtual-dtor -Werror
    $<$<CXX_COMPILER_ID:GNU>:-Wno-restrict;-Wno-stringop-overflow>  # GCC 12 misfires with both inside std::string (bugs 105329, 105651)
    $<$<CXX_COMPILER_ID:Clang>:-Wno-sign-conversion>)  # Clang counts signs among conversions, GCC does not
endfunction()

# What every folder of the core uses is precompiled once for all of them, by otoro_precompiled.
set(OTORO_CORE_HEADERS <algorithm> <array> <atomic> <bit> <chrono> <cmath> <functional> <limits> <map> <memory> <mutex> <numeric> <optional> <set> <span> <string>
    <thread> <tuple> <unordered_map> <unordered_set> <utility> <variant> <vector> <fmt/format.h> <fmt/ranges.h> <tbb/enumerable_thread_specific.h> <tbb/parallel_for.h>)
file(WRITE ${CMAKE_BINARY_DIR}/precompiled.cpp.new "namespace otoro {}\n")
file(COPY_FILE ${CMAKE_BINARY_DIR}/precompiled.cpp.new ${CMAKE_BINARY_DIR}/precompiled.cpp ONLY_IF_DIFFERENT)
add_library(otoro_precompiled STATIC ${CMAKE_BINARY_DIR}/precompiled.cpp)
target_link_libraries(otoro_precompiled PUBLIC fmt::fmt TBB::tbb)
otoro_warnings(otoro_precompiled)
if(NOT OTORO_EACH_FILE_ALONE)
  target_precompile_headers(otoro_precompiled PRIVATE ${OTORO_CORE_HEADERS})
endif()

# otoro_together(TARGET HOW_MANY [HEADER...]): how the files of a target are compiled. Without headers of its own it has
# those of the core.
function(otoro_together target how_many)
  if(OTORO_EACH_FILE_ALONE)
    return()
  endif()
  if(how_many GREATER 1)
    set_target_properties(${target} PROPERTIES UNITY_BUILD ON UNITY_BUILD_BATCH_SIZE ${how_many})
  endif()
  if(ARGN)
    target_precompile_headers(${target} PRIVATE ${ARGN})
  else()
    target_precompile_headers(${target} REUSE_FROM otoro_precompiled)
  endif()
endfunction()

function(otoro_library name)
  cmake_parse_arguments(ARG "" "TOGETHER" "SOURCES;DEPENDS;PRIVATE_DEPENDS;FOREIGN" ${ARGN})
  add_library(otoro_${name} STATIC ${ARG_SOURCES})
  target_include_directories(otoro_${name} PUBLIC ${PROJECT_SOURCE_DIR}/src)
  target_link_libraries(otoro_${name} PUBLIC fmt::fmt TBB::tbb ${ARG_DEPENDS} PRIVATE ${ARG_PRIVATE_DEPENDS})
  otoro_warnings(otoro_${name})
  if(ARG_FOREIGN)
    list(PREPEND ARG_FOREIGN ${OTORO_CORE_HEADERS})
  endif()
  otoro_together(otoro_${name} ${ARG_TOGETHER} ${ARG_FOREIGN})
endfunction()
