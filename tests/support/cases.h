#pragma once

/// How many random cases a test draws: `all` of them, or a fifth where the sanitizers watch. They look for memory
/// misread, which the first cases show as well as the last, and take ten times as long; whether answers are right is
/// seen without them.
namespace otoro::test {
constexpr int cases(int all) {
#if defined(__SANITIZE_ADDRESS__)
    return all / 5;
#elif defined(__has_feature)
#if __has_feature(address_sanitizer)
    return all / 5;
#else
    return all;
#endif
#else
    return all;
#endif
}
}  // namespace otoro::test
