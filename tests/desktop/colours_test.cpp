/// Colours and marks: told apart by everybody, on paper, in grey and at small sizes.
#include <QImage>
#include <QPainter>
#include <catch2/catch.hpp>
#include <cmath>
#include <random>
#include <set>

#include "desktop/map/map_painter.h"
#include "desktop/map/site_colours.h"
#include "desktop/theme.h"

using namespace otoro;
using namespace otoro::desktop;

namespace {

double luminance(const QColor& c) {
    const auto linear = [](double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
    return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
}

double contrast(const QColor& a, const QColor& b) {
    const double x = luminance(a) + 0.05, y = luminance(b) + 0.05;
    return std::max(x, y) / std::min(x, y);
}

std::vector<service::SiteOutcome> sites_at(const std::vector<geo::LonLat>& places) {
    std::vector<service::SiteOutcome> out(places.size());
    for (std::size_t i = 0; i < places.size(); ++i) {
        out[i].planned.site.position = places[i];
        out[i].planned.today = places[i];
        out[i].planned.in_use = true;
    }
    return out;
}

QImage mark(const std::function<void(QPainter&, QPointF)>& draw) {
    QImage image(18, 18, QImage::Format_RGB32);
    image.fill(theme::kPaper);
    QPainter p(&image);
    p.setRenderHint(QPainter::Antialiasing);
    draw(p, {9, 9});
    p.end();
    return image.convertToFormat(QImage::Format_Grayscale8);
}

/// In how many pixels, weighted by how much, two pictures differ.
double grey_difference(const QImage& a, const QImage& b) {
    double sum = 0;
    for (int y = 0; y < a.height(); ++y)
        for (int x = 0; x < a.width(); ++x) sum += std::abs(qGray(a.pixel(x, y)) - qGray(b.pixel(x, y))) / 255.0;
    return sum;
}

}  // namespace

TEST_CASE("Thirty sites and more: near ones are never alike, with red and green receptors or without") {
    std::mt19937 dice(5);
    std::uniform_real_distribution<double> lon(-9.6, -9.4), lat(46.1, 46.3);
    for (int round = 0; round < 30; ++round) {
        std::vector<geo::LonLat> places;
        for (int i = 0; i < 30 + round; ++i) places.push_back({lon(dice), lat(dice)});
        const auto colours = site_colours(sites_at(places));
        for (std::size_t i = 0; i < places.size(); ++i) {
            std::vector<std::pair<double, std::size_t>> near;
            for (std::size_t k = 0; k < i; ++k)
                near.emplace_back(std::hypot((places[k].lon - places[i].lon) * 0.69, places[k].lat - places[i].lat), k);
            std::sort(near.begin(), near.end());
            for (std::size_t n = 0; n < std::min<std::size_t>(4, near.size()); ++n)
                CHECK(difference(colours[i], colours[near[n].second]) > 10);
        }
    }
}

TEST_CASE("As many sites as there are colours have one each, or nearly: catchments meet far from their sites too") {
    std::mt19937 dice(6);
    std::uniform_real_distribution<double> lon(-9.6, -9.4), lat(46.1, 46.3);
    for (int round = 0; round < 20; ++round) {
        std::vector<geo::LonLat> places;
        for (int i = 0; i < 8; ++i) places.push_back({lon(dice), lat(dice)});
        std::set<QRgb> different;
        for (const QColor& c : site_colours(sites_at(places))) different.insert(c.rgb());
        CHECK(different.size() >= 7);
    }
}

TEST_CASE("A site that is dragged changes no other's colour") {
    std::vector<geo::LonLat> places;
    for (int i = 0; i < 20; ++i) places.push_back({-9.5 + 0.01 * (i % 5), 46.2 + 0.01 * (i / 5)});
    auto sites = sites_at(places);
    const auto before = site_colours(sites);
    sites[7].planned.site.position = geo::LonLat{-9.47, 46.23};
    const auto after = site_colours(sites);
    for (std::size_t i = 0; i < sites.size(); ++i)
        if (i != 7) CHECK(after[i] == before[i]);
}

TEST_CASE("The ramp keeps its order in grey, turns by a step at the limit, and stands out from the paper") {
    for (int step = 1; step < theme::kRampSteps; ++step)
        CHECK(luminance(theme::ramp_colour(step)) < luminance(theme::ramp_colour(step - 1)));
    const int half = theme::kRampSteps / 2;
    const double turn = luminance(theme::ramp_colour(half - 1)) - luminance(theme::ramp_colour(half));
    CHECK(turn > 2.5 * (luminance(theme::ramp_colour(half - 2)) - luminance(theme::ramp_colour(half - 1))));
    for (int step = 0; step < theme::kRampSteps; ++step)
        CHECK(contrast(theme::ramp_colour(step), theme::kPaper) >= 3.0);
    CHECK(contrast(theme::kFaintInk, theme::kPaper) >= 3.0);
    CHECK(contrast(theme::kSoftInk, theme::kShade) >= 4.5);
    CHECK(contrast(theme::kMet, theme::kPaper) >= 4.5);
    CHECK(contrast(theme::kNotMet, theme::kPaper) >= 4.5);
}

TEST_CASE("Marks of sites and of places not served differ at 8 pixels in grey") {
    std::vector<QImage> marks;
    for (const auto state : {places::SiteState::open, places::SiteState::candidate, places::SiteState::closed})
        marks.push_back(mark([&](QPainter& p, QPointF at) {
            paint_site_mark(p, at, 4, state, state == places::SiteState::open, theme::kInk);
        }));
    for (const auto status : {service::Status::beyond_limit, service::Status::no_road_near, service::Status::cut_off,
                              service::Status::site_full})
        marks.push_back(mark([&](QPainter& p, QPointF at) { paint_unserved_mark(p, at, 4, status); }));
    marks.push_back(mark([](QPainter& p, QPointF at) {
        p.setPen(Qt::NoPen);
        p.setBrush(theme::ramp(0.5));
        p.drawEllipse(at, 4, 4);
    }));
    for (std::size_t i = 0; i < marks.size(); ++i)
        for (std::size_t k = 0; k < i; ++k) {
            CAPTURE(i, k);
            CHECK(grey_difference(marks[i], marks[k]) > 5);
        }
}
