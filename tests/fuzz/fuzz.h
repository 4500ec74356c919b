#pragma once
/// \file
/// A fuzz target is one function of a text. With libFuzzer (scripts/fuzz) it is fed what finds new paths; without,
/// tests/fuzz/replay.cpp feeds it the seeds and many small changes of them, so that every target also runs among the
/// tests.
#include <cstddef>
#include <cstdint>
#include <string_view>

#define OTORO_FUZZ(text)                                                                \
    static void try_text(std::string_view text);                                        \
    extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) { \
        try_text({reinterpret_cast<const char*>(data), size});                          \
        return 0;                                                                       \
    }                                                                                   \
    static void try_text(std::string_view text)
