#include "bench/window/handlers.h"

#include <fmt/core.h>

#include <QMetaEnum>
#include <QTemporaryDir>

#include "bench/window/kit.h"

namespace gq::desk {
namespace {

struct Step {
    std::string series, name, what;
    double ms;
};
std::vector<Step> steps;

}  // namespace

bool TimedApplication::notify(QObject* receiver, QEvent* event) {
    if (m_nested) return QApplication::notify(receiver, event);
    // The receiver may be gone afterwards.
    const char* kind = QMetaEnum::fromType<QEvent::Type>().valueToKey(event->type());
    const std::string what =
        fmt::format("{} {}", receiver->metaObject()->className(), kind ? kind : "own event");
    bool done = false;
    m_nested = true;
    const double ms = timed([&] { done = QApplication::notify(receiver, event); });
    m_nested = false;
    m_longest = std::max(m_longest, {ms, what});
    return done;
}

std::pair<double, std::string> TimedApplication::takeLongest() {
    return std::exchange(m_longest, {});
}

void handlers(const std::string& series, MainWindow& w) {
    auto& app = dynamic_cast<TimedApplication&>(*qApp);
    auto& d = w.document();
    const auto step = [&](const char* name, const auto& body) {
        app.takeLongest();
        const double own = timed(body);
        settle(w);
        const auto longest = std::max(app.takeLongest(), {own, "the command itself"});
        steps.push_back({series, name, longest.second, longest.first});
    };
    std::vector<std::string> all;
    for (const auto& f : d.now()->frames) all.push_back(f->id);
    for (const auto& [name, stage] : {std::pair{"Mend", Stage::Mend},
                                      {"Carry", Stage::Carry},
                                      {"Deliver", Stage::Deliver},
                                      {"Find", Stage::Find}})
        step(name, [&] { w.setStage(stage); });
    step("find on all", [&] { w.work().findOn(all); });
    step("move the line", [&] { w.work().setLine(0.3F); });
    step("mend all", [&] { w.work().mendAllAbove(); });
    step("undo", [&] { d.undo(); });
    step("redo", [&] { d.redo(); });
    step("the last frame", [&] { d.setCurrent(all.back()); });
    step("the first frame", [&] { d.setCurrent(all.front()); });
    std::vector<Work::Cell> row;
    if (const auto& first = d.now()->frames.front(); !first->mends.empty())
        for (const auto& id : all) row.push_back({id, first->mends[0].id});
    w.setStage(Stage::Carry);
    step("drop a row", [&] { w.work().drop(row); });
    w.setStage(Stage::Deliver);
    const QTemporaryDir out;
    step("deliver", [&] { w.work().deliver(all, out.path().toStdString(), {}); });
}

void tellHandlers() {
    if (steps.empty()) return;
    fmt::print(
        "\n| longest handler of the window's thread | step | ms | aim | what |\n"
        "|---|---|---|---|---|\n");
    for (const auto& s : steps)
        fmt::print("| {} | {} | {:.0f} | 50 | {} |\n", s.series, s.name, s.ms, s.what);
}

}  // namespace gq::desk
