#pragma once
/// \file
/// What is wrong with what was brought in, and how much it matters.
#include <QString>
#include <optional>
#include <vector>

#include "geo/task.h"
#include "service/study.h"

namespace otoro::desktop {

struct Finding {
    QString sentence;
    std::uint32_t places = 0;              ///< demand places touched
    Weight weight;                         ///< their weight
    std::vector<std::uint32_t> which;      ///< demand places of the question's set, to show
    std::optional<geo::LonLat> where;      ///< somewhere to look
    std::vector<QString> records;          ///< each record with its reason
};

/// All findings, those that touch most weight first. Pure; for the roads as the question's traveller meets them.
std::vector<Finding> find_trouble(const service::Study& study, const Task& task);

}  // namespace otoro::desktop
