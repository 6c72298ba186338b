#include "core/carry/presence.h"

#include <algorithm>
#include <cmath>

namespace gq::carry {
namespace {

constexpr double kMost = 3;     ///< log odds of one witness, and of all: dust may go at any time
constexpr double kCharted = 2;  ///< of a grain that a chart tells of, and nothing else
constexpr double kChange = 0.02, kChangeByDay = 0.1;  ///< chance to come or go between two frames

std::string dayOf(const std::string& taken) {
    return taken.substr(0, 10);
}

/// The odds a step further along the chain.
double stepped(double odds, const std::string& from, const std::string& to) {
    if (from == to) return odds;
    const double change = dayOf(from) == dayOf(to) ? kChange : kChangeByDay;
    const double there = 1 / (1 + std::exp(-odds)), then = there + change * (1 - 2 * there);
    return std::log(then / (1 - then));
}

/// What witnesses in the order of their time tell of a time after them.
template <class Iterator>
double along(Iterator begin, Iterator end, double odds, const std::string& taken) {
    for (auto w = begin; w != end; ++w) {
        odds += std::clamp(w->told, -kMost, kMost);
        odds = stepped(odds, w->taken, std::next(w) == end ? taken : std::next(w)->taken);
    }
    return odds;
}

}  // namespace

double presenceAt(std::vector<Witness> witnesses, const std::string& taken) {
    if (taken.empty())
        for (auto& w : witnesses) w.taken.clear();
    const auto earlier = [](const Witness& a, const Witness& b) { return a.taken < b.taken; };
    std::stable_sort(witnesses.begin(), witnesses.end(), earlier);
    const auto later =
        std::upper_bound(witnesses.begin(), witnesses.end(), Witness{taken, 0}, earlier);
    const double before = along(witnesses.begin(), later, kCharted, taken),
                 after = along(witnesses.rbegin(), std::make_reverse_iterator(later), 0.0, taken);
    return std::clamp(before + after, -kMost, kMost);
}

}  // namespace gq::carry
