#include "core/find/find_plan.h"

namespace gq::find {

std::vector<Polarity> polaritiesOf(const FindPlan& plan) {
    if (!plan.polarities.empty()) return plan.polarities;
    switch (plan.origin) {
        case Origin::Sensor:
        case Origin::Positive:
            return {Polarity::Dark};
        case Origin::Negative:
            return {Polarity::Light};
        case Origin::Print:
            return {Polarity::Dark, Polarity::Light};
    }
    return {};
}

bool isFilm(Origin origin) {
    return origin == Origin::Negative || origin == Origin::Positive;
}

const std::vector<Origin>& allOrigins() {
    static const std::vector<Origin> all{Origin::Sensor, Origin::Negative, Origin::Positive,
                                         Origin::Print};
    return all;
}

std::string word(Origin origin) {
    switch (origin) {
        case Origin::Sensor:
            return "sensor";
        case Origin::Negative:
            return "negative";
        case Origin::Positive:
            return "positive";
        case Origin::Print:
            return "print";
    }
    return {};
}

std::optional<Origin> originFromWord(const std::string& text) {
    for (const Origin o : allOrigins())
        if (word(o) == text) return o;
    return std::nullopt;
}

}  // namespace gq::find
