#include "service/pace.h"

#include "service/searching.h"

namespace otoro::service {
namespace {

std::uint64_t slowed(std::uint64_t time, Share speed) {
    if (time == travel::kNotAllowed) return time;
    const auto share = static_cast<std::uint64_t>(speed.ppm());
    constexpr std::uint64_t kWhole = 1'000'000;
    // In two parts, so that no product is too large.
    return time / share * kWhole + (time % share * kWhole + share / 2) / share;
}

}  // namespace

std::shared_ptr<const Ready> at_pace(const Ready& ready, Share speed, const Task& task) {
    task.at("timing roads", 0);
    auto out = std::make_shared<Ready>(ready);
    auto costed = std::make_shared<CostedNetwork>(*ready.costed);
    for (auto& time : costed->traversal_times) {
        time.along = slowed(time.along, speed);
        time.against = slowed(time.against, speed);
    }
    if (out->question.off_road_speed)
        out->question.off_road_speed =
            out->question.off_road_speed->scaled(static_cast<std::uint32_t>(speed.ppm() / 1'000));
    out->costed = costed;
    task.at("laying out the network", 0.2);
    out->graph = graph_of(*out, *costed);
    out->access = std::make_shared<const LinkAccess>(*out->inputs.network, *costed, out->question, *out->attached);
    out->prepared = nullptr;
    return out;
}

}  // namespace otoro::service
