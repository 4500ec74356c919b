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
    $<$<CXX_COMPILER_ID:Clang>:-Wno-sign-conversion;-Wno-unknown-warning-option>)  # Clang counts signs among conversions, GCC does not
endfunction()

# otoro_precompiled(NAME HEADERS a b LINKS c d): a library of nothing but the headers that others have precompiled.
file(WRITE ${CMAKE_BINARY_DIR}/precompiled.cpp.new "namespace otoro {}\n")
file(COPY_FILE ${CMAKE_BINARY_DIR}/precompiled.cpp.new ${CMAKE_BINARY_DIR}/precompiled.cpp ONLY_IF_DIFFERENT)
function(otoro_precompiled target)
  cmake_parse_arguments(ARG "LENIENT" "" "HEADERS;LINKS" ${ARGN})
  add_library(${target} STATIC ${CMAKE_BINARY_DIR}/precompiled.cpp)
  target_include_directories(${target} PRIVATE ${PROJECT_SOURCE_DIR}/src)
  target_link_libraries(${target} PUBLIC fmt::fmt TBB::tbb ${ARG_LINKS})
  set_target_properties(${target} PROPERTIES AUTOMOC OFF AUTORCC OFF)
  if(NOT ARG_LENIENT)
    otoro_warnings(${target})  # they define macros, which must be the same wherever the headers are used
  endif()
  if(NOT OTORO_EACH_FILE_ALONE)
    target_precompile_headers(${target} PRIVATE ${OTORO_CORE_HEADERS} ${ARG_HEADERS})
  endif()
endfunction()

# What every folder of the core uses.
set(OTORO_CORE_HEADERS <algorithm> <array> <atomic> <bit> <chrono> <cmath> <functional> <limits> <map> <memory> <mutex> <numeric> <optional> <set> <span> <string>
    <thread> <tuple> <unordered_map> <unordered_set> <utility> <variant> <vector> <fmt/format.h> <fmt/ranges.h> <tbb/enumerable_thread_specific.h> <tbb/parallel_for.h>)
otoro_precompiled(otoro_core_foreign)

# otoro_together(TARGET HOW_MANY FROM): how the files of a target are compiled, and whose precompiled headers it has.
function(otoro_together target how_many from)
  if(OTORO_EACH_FILE_ALONE)
    return()
  endif()
  if(how_many GREATER 1)
    set_target_properties(${target} PROPERTIES UNITY_BUILD ON UNITY_BUILD_BATCH_SIZE ${how_many})
  endif()
  target_precompile_headers(${target} REUSE_FROM ${from})
endfunction()

# SELDOM: files whose code runs once a press or a file, never once a record. Optimising them takes as long as all the
# rest of compiling them and nobody sees it, so they are optimised a little.
set(OTORO_SELDOM $<$<CONFIG:Release>:-O1>)

# Tests are not optimised at all where the sanitizers watch: optimising what they add takes clang longer than
# the tests gain by it. The core is, whose loops the tests go through.
option(OTORO_TESTS_AS_THEY_ARE "Do not optimise the tests" OFF)
function(otoro_as_it_is)
  if(OTORO_TESTS_AS_THEY_ARE)
    foreach(target IN LISTS ARGN)
      target_compile_options(${target} PRIVATE -O0)
    endforeach()
  endif()
endfunction()

# PARSES: what is read there came from outside, so the fuzz targets (OTORO_FUZZING, clang) see which way it went.
function(otoro_library name)
  cmake_parse_arguments(ARG "PARSES" "TOGETHER;FOREIGN_OF" "SOURCES;SELDOM;DEPENDS;PRIVATE_DEPENDS;FOREIGN" ${ARGN})
  add_library(otoro_${name} STATIC ${ARG_SOURCES})
  set(parts otoro_${name})
  if(ARG_SELDOM)
    add_library(otoro_${name}_seldom OBJECT ${ARG_SELDOM})
    target_compile_options(otoro_${name}_seldom PRIVATE ${OTORO_SELDOM})
    target_sources(otoro_${name} PRIVATE $<TARGET_OBJECTS:otoro_${name}_seldom>)
    list(APPEND parts otoro_${name}_seldom)
  endif()
  foreach(part IN LISTS parts)
    target_include_directories(${part} PUBLIC ${PROJECT_SOURCE_DIR}/src)
    target_link_libraries(${part} PUBLIC fmt::fmt TBB::tbb ${ARG_DEPENDS} PRIVATE ${ARG_PRIVATE_DEPENDS})
    otoro_warnings(${part})
    if(OTORO_FUZZING AND ARG_PARSES)
      target_compile_options(${part} PRIVATE -fsanitize-coverage=inline-8bit-counters,indirect-calls,trace-cmp,pc-table)
    endif()
  endforeach()
  set(from otoro_core_foreign)
  if(ARG_FOREIGN_OF)
    set(from otoro_${ARG_FOREIGN_OF}_foreign)
  elseif(ARG_FOREIGN)
    set(from otoro_${name}_foreign)
    otoro_precompiled(${from} HEADERS ${ARG_FOREIGN} LINKS ${ARG_DEPENDS} ${ARG_PRIVATE_DEPENDS})
  endif()
  foreach(part IN LISTS parts)
    otoro_together(${part} ${ARG_TOGETHER} ${from})
  endforeach()
endfunction()
