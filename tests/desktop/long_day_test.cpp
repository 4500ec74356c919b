/// A program that is left open for a day: what it keeps is bounded, and what others do meanwhile is seen.
#include <QProcess>
#include <QTimer>
#include <catch2/catch.hpp>

#include "desktop/at_the_desk.h"
#include "desktop/models/answer_store.h"
#include "files/study_file.h"
#include "support/asking.h"

using namespace otoro;
using namespace otoro::desktop;
using test::Desk;
using test::wait_for;

namespace {

service::Study small_town() {
    std::vector<std::pair<test::At, double>> homes;
    for (int i = 0; i < 60; ++i) homes.push_back({{double(i * 16), 0}, 1});
    auto s = test::study_of(test::Town().draw({{0, 0}, {1000, 0}}), test::households(homes),
                            test::posts({{0, 0}, {900, 0}}));
    s.question().standard = service::Standard{Share::percent(80), Millis(20'000), {}};
    s.question().demand = {s.demand[0].set->name};
    s.question().sites = {s.sites[0].set->name};
    return s;
}

/// How many of these are still kept by somebody.
template <class T>
std::ptrdiff_t alive(const std::vector<std::weak_ptr<T>>& all) {
    return std::count_if(all.begin(), all.end(), [](const auto& w) { return !w.expired(); });
}

service::SiteChange moved_to(double x) { return {service::Change::move, "s1", test::place({x, 0}), {}}; }

}  // namespace

TEST_CASE("Three hundred edits of a plan keep the answers of plans that exist, and of a few steps back") {
    Desk d;
    d.session().document.put(small_town(), {});
    REQUIRE(d.settle_plans());
    std::vector<std::weak_ptr<const PlanAnswer>> answers{d.session().answers.shown()};
    for (int i = 0; i < 300; ++i) {
        d.session().document.change_plan("moved", moved_to(3.0 * (i + 1)));
        REQUIRE(d.settle_plans());
        if (answers.back().lock() != d.session().answers.shown()) answers.push_back(d.session().answers.shown());
        // Half of them are taken back at once.
        if (i % 2 == 1) {
            d.session().document.undo_stack().undo();
            REQUIRE(d.settle_plans());
        }
    }
    REQUIRE(answers.size() > 290);
    REQUIRE(d.session().document.study().plans.size() == 2);
    const auto kept = static_cast<std::ptrdiff_t>(2 + AnswerStore::kStepsBack);
    INFO(alive(answers) << " of " << answers.size() << " are alive, " << d.session().answers.memory_kept());
    CHECK(alive(answers) <= kept + 2);
    CHECK(d.session().answers.memory_kept() <= static_cast<std::size_t>(kept) * 100'000);
    // A step back has its answer at once.
    auto now = d.session().answers.shown();
    d.session().document.undo_stack().undo();
    REQUIRE(d.settle_plans());
    d.session().document.undo_stack().redo();
    CHECK(d.session().answers.shown() == now);
    now.reset();
    // Another study, and nothing of this one is kept.
    d.session().document.put(small_town(), {});
    REQUIRE(d.settle_plans());
    CHECK(alive(answers) == 0);
}

TEST_CASE("Undo keeps within its budget, and the last step whatever it takes") {
    Desk d;
    d.session().document.put(small_town(), {});
    auto& document = d.session().document;
    document.set_undo_budget(1'000'000);
    std::vector<std::weak_ptr<const places::DemandSet>> sets;
    for (int i = 0; i < 300; ++i)
        document.edit(QString("weights %1").arg(i), [&](service::Study& s) {
            auto set = std::make_shared<places::DemandSet>(*s.demand[0].set);
            set->places[0].weight = Weight::of(2.0 + i);
            s.demand[0].set = set;
            sets.emplace_back(s.demand[0].set);
        });
    CHECK(document.undo_stack().count() > 10);
    CHECK(document.undo_stack().count() < 290);
    REQUIRE(d.settle());
    CHECK(alive(sets) <= document.undo_stack().count() + 4);
    CHECK(document.undo_stack().undoText() == "weights 299");
    for (int k = document.undo_stack().count(); k > 0; --k) {
        CHECK(document.study().demand[0].set->places[0].weight ==
              Weight::of(302.0 - (document.undo_stack().count() - k) - 1));
        document.undo_stack().undo();
    }
    CHECK_FALSE(document.undo_stack().canUndo());
    document.undo_stack().redo();
    document.set_undo_budget(10);
    document.edit("one more", [](service::Study& s) { s.name = "Another"; });
    CHECK(document.undo_stack().count() == 1);
    document.undo_stack().undo();
    CHECK(document.study().name != "Another");
}

TEST_CASE("Answers that the budget does not hold are let go of, the longest unseen first") {
    const auto study = small_town();
    const auto ready = prepare(*study.inputs(), study.question(), nullptr, Task());
    std::vector<service::Plan> plans(1);
    for (int i = 0; i < 5; ++i) plans.push_back({"p" + std::to_string(i), {moved_to(100.0 * (i + 1))}});
    std::vector<PlanAnswerPtr> answers;
    for (const auto& plan : plans)
        answers.push_back(std::make_shared<const PlanAnswer>(PlanAnswer{ready, answer(*ready, plan, Task())}));
    const auto one = memory_of(*answers[1]);
    AnswerStore store(one * 4);
    for (const auto& a : answers) store.keep(a);
    CHECK(store.find(plans[1]) != nullptr);  // looked at
    store.let_go(plans, 2);
    CHECK(store.bytes() <= one * 4);
    CHECK(store.find(plans[0]) == answers[0]);
    CHECK(store.find(plans[1]) == answers[1]);
    CHECK(store.find(plans[2]) == answers[2]);
    CHECK(store.find(plans[3]) == nullptr);
    CHECK(store.was_let_go(plans[3]));
    store.keep(answers[3]);
    CHECK_FALSE(store.was_let_go(plans[3]));
}

TEST_CASE("Every plan has its verdict, also where the budget holds the answer of hardly any") {
    Desk d;
    d.session().answers.set_budget(1);
    d.session().document.put(small_town(), {});
    REQUIRE(d.settle());
    for (int i = 0; i < 4; ++i) d.session().document.new_plan(QString("p%1").arg(i), {moved_to(100.0 * (i + 1))});
    const auto all_known = [&] {
        const auto& study = d.session().document.study();
        for (std::size_t p = 0; p < study.plans.size(); ++p) {
            const auto verdict = d.session().answers.verdict_of(p);
            if (!verdict || verdict->standard.limit != study.question().standard->limit) return false;
        }
        return d.session().answers.up_to_date();
    };
    CHECK(wait_for(all_known));
    CHECK(d.session().answers.of_plan(2) == nullptr);
    // Another standard: each is judged by it, and by nothing else.
    d.session().document.edit("limit", [](service::Study& s) { s.question().standard->limit = Millis(12'000); });
    CHECK(wait_for(all_known));
    const auto ready = d.session().answers.shown()->ready;
    for (std::size_t p = 0; p < 5; ++p) {
        const auto& study = d.session().document.study();
        CHECK(d.session().answers.verdict_of(p)->share ==
              judge(answer(*ready, study.plans[p], Task()), *study.question().standard).share);
    }
    // One that was let go of is worked out again when it comes into sight.
    d.session().document.choose_plan(2);
    CHECK(wait_for([&] { return d.session().answers.up_to_date() && d.session().answers.of_plan(2) != nullptr; }));
}

TEST_CASE("Who goes on working has a copy all the same") {
    Desk d;
    StudyFiles files(d.session(), d.window.jobs(), QString::fromStdString(d.folder.file("copies")), nullptr,
                     std::chrono::milliseconds(200));
    int kept = 0;
    QObject::connect(&files, &StudyFiles::copy_kept, [&] { ++kept; });
    d.session().document.put(small_town(), {});
    // An edit every 30 ms, far sooner than a copy would be made after the last.
    int edits = 0;
    QTimer working;
    QObject::connect(&working, &QTimer::timeout, [&] {
        d.session().document.edit("rename", [&](service::Study& s) { s.name = "name " + std::to_string(++edits); });
    });
    working.start(30);
    CHECK(wait_for([&] { return kept >= 2; }));
    working.stop();
    CHECK(files::open_study(files.copy_path().toStdString(), Task()).name.starts_with("name "));
}

TEST_CASE("What another program saves while a study is read, or a dialog is open, is not written over unasked") {
    Desk d;
    const auto path = d.folder.file("s.otoro.gpkg");
    files::save_study(small_town(), path, Task());
    bool put = false;
    d.window.files().open(QString::fromStdString(path), [&](const std::function<void()>& now) {
        // It has been read; before it is on the desk a colleague adds a plan.
        CHECK(QProcess::execute(OTORO_BATCH, {"study", QString::fromStdString(path), "--add-plan", "Theirs", "--close",
                                              "s0", "--quiet"}) == 0);
        now();
        put = true;
    });
    REQUIRE(wait_for([&] { return put; }));
    CHECK(d.session().document.study().plans.size() == 1);
    d.session().document.edit("rename", [](service::Study& s) { s.name = "Mine"; });
    bool done = false, saved = true;
    d.window.files().save(QString::fromStdString(path), [&](bool was) { done = true, saved = was; });
    REQUIRE(wait_for([&] { return done; }));
    CHECK_FALSE(saved);
    CHECK(d.session().document.has_unsaved_changes());
    CHECK(files::open_study(path, Task()).plans.size() == 2);
}
