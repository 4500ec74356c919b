#include "files/arrow_records.h"

#include <cpl_string.h>
#include <fmt/format.h>
#include <ogr_recordbatch.h>
#include <ogrsf_frmts.h>

#include <array>
#include <charconv>

#include "files/complaints.h"

namespace otoro::files {
namespace {

/// The letter of the Arrow format of a column that can be read here, or 0.
char readable(const char* format) {
    const std::string_view f(format);
    return f == "u" || f == "i" || f == "l" || f == "g" || f == "s" ? f[0] : '\0';
}

bool is_null(const ArrowArray& column, std::int64_t row) {
    const auto* bits = static_cast<const std::uint8_t*>(column.buffers[0]);
    return column.null_count != 0 && bits != nullptr && (bits[row / 8] >> (row % 8) & 1) == 0;
}

template <class T>
T at(const ArrowArray& column, int buffer, std::int64_t row) {
    return static_cast<const T*>(column.buffers[buffer])[row];
}

/// Bytes of a text or binary column.
std::span<const unsigned char> bytes(const ArrowArray& column, std::int64_t row) {
    const auto begin = at<std::int32_t>(column, 1, row);
    const auto end = at<std::int32_t>(column, 1, row + 1);
    return {static_cast<const unsigned char*>(column.buffers[2]) + begin, static_cast<std::size_t>(end - begin)};
}

}  // namespace

struct ArrowRecords::State {
    explicit State(Source& s) : source(s) {}
    ~State() {
        if (batch.release) batch.release(&batch);
        if (stream.release) stream.release(&stream);
    }
    State(const State&) = delete;
    State& operator=(const State&) = delete;

    Source& source;
    ArrowArrayStream stream{};
    ArrowArray batch{};
    std::vector<int> child;    // place of each wanted column in the batch
    std::vector<char> format;  // its Arrow format
    int geometry = -1;
    std::int64_t row = -1;
    std::int64_t done = 0;
    std::array<char, 32> number{};
};

std::unique_ptr<ArrowRecords> ArrowRecords::open(Source& source, const std::vector<std::string>& columns, bool shapes) {
    OGRLayer& layer = source.layer();
    if (!layer.TestCapability("FastGetArrowStream")) return nullptr;
    auto state = std::make_unique<State>(source);
    const Complaints quiet;
    CPLStringList options;
    options.SetNameValue("INCLUDE_FID", "NO");
    options.SetNameValue("MAX_FEATURES_IN_BATCH", "8192");  // a few hundred kilobytes at a time
    if (!layer.GetArrowStream(&state->stream, options.List())) return nullptr;
    ArrowSchema schema{};
    if (state->stream.get_schema(&state->stream, &schema) != 0) return nullptr;
    const auto find = [&](const std::string& name) {
        for (std::int64_t i = 0; i < schema.n_children; ++i)
            if (name == schema.children[i]->name) return static_cast<int>(i);
        return -1;
    };
    bool all_readable = true;
    for (const auto& column : columns) {
        const int i = column.empty() ? -1 : find(column);
        state->child.push_back(i);
        state->format.push_back(i >= 0 ? readable(schema.children[i]->format) : '\0');
        all_readable = all_readable && (column.empty() || (i >= 0 && state->format.back() != '\0'));
    }
    const std::string geometry = layer.GetGeometryColumn();
    state->geometry = find(geometry.empty() ? "wkb_geometry" : geometry);
    if (shapes)
        all_readable =
            all_readable && state->geometry >= 0 && std::string_view(schema.children[state->geometry]->format) == "z";
    schema.release(&schema);
    if (!all_readable) return nullptr;
    return std::unique_ptr<ArrowRecords>(new ArrowRecords(std::move(state)));
}

ArrowRecords::ArrowRecords(std::unique_ptr<State> state) : state_(std::move(state)) {}
ArrowRecords::~ArrowRecords() = default;

bool ArrowRecords::next_batch() {
    constexpr const char* kBroken = "It may be damaged or broken off; ask for it again, or export it again";
    auto& s = *state_;
    if (s.batch.release) s.batch.release(&s.batch);
    s.batch = {};
    s.row = 0;
    const Complaints complaints;
    const int error = s.stream.get_next(&s.stream, &s.batch);
    s.source.check_stop();  // a database that was stopped says that it is broken
    if (error != 0 || !complaints.first().empty())
        s.source.fail(s.done,
                      fmt::format("it cannot be read further ({})",
                                  complaints.first().empty() ? "unknown error" : complaints.first()),
                      kBroken);
    if (s.batch.release && s.batch.length > 0) return true;
    if (s.source.count_is_exact() && s.done < s.source.expected_records())
        s.source.fail(s.done, fmt::format("it says it has {} records but ends here", s.source.expected_records()),
                      kBroken);
    return false;
}

bool ArrowRecords::next() {
    auto& s = *state_;
    if (s.batch.release && s.row + 1 < s.batch.length)
        ++s.row;
    else if (!next_batch())
        return false;
    ++s.done;
    return true;
}

std::string_view ArrowRecords::text(std::size_t column) {
    auto& s = *state_;
    if (s.child[column] < 0) return {};
    const ArrowArray& c = *s.batch.children[s.child[column]];
    if (is_null(c, s.row)) return {};
    const auto print = [&](auto v) {
        const auto [end, error] = std::to_chars(s.number.data(), s.number.data() + s.number.size(), v);
        return std::string_view(s.number.data(),
                                error == std::errc() ? static_cast<std::size_t>(end - s.number.data()) : 0);
    };
    switch (s.format[column]) {
        case 'u': {
            const auto b = bytes(c, s.row);
            return {reinterpret_cast<const char*>(b.data()), b.size()};
        }
        case 's':
            return print(at<std::int16_t>(c, 1, s.row));
        case 'i':
            return print(at<std::int32_t>(c, 1, s.row));
        case 'l':
            return print(at<std::int64_t>(c, 1, s.row));
        default:
            return print(at<double>(c, 1, s.row));
    }
}

std::span<const unsigned char> ArrowRecords::wkb() const {
    const auto& s = *state_;
    const ArrowArray& c = *s.batch.children[s.geometry];
    return is_null(c, s.row) ? std::span<const unsigned char>() : bytes(c, s.row);
}

}  // namespace otoro::files
