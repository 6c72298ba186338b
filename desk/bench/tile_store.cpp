#include "desk/bench/tile_store.h"

#include <algorithm>

#include "desk/look/convert.h"

namespace gq::desk {

namespace {

constexpr size_t kMost = 600;  ///< tiles kept of each sort: about 150 MB

Rect tileBox(const Image8& level, int column, int row, int around) {
    const Rect box(column * TileStore::kSide - around, row * TileStore::kSide - around,
                   TileStore::kSide + 2 * around, TileStore::kSide + 2 * around);
    return box & Rect({0, 0}, level.size());
}

Image8 shown(const Image8& part, const std::optional<film::Inversion>& inversion) {
    return inversion ? film::inverted(part, *inversion) : part;
}

}  // namespace

TileStore::TileStore(Jobs& jobs, QObject* parent) : QObject(parent), m_jobs(jobs) {}

QImage TileStore::tile(const Pyramid& pyramid, int level, int column, int row) {
    const Key key{level, column, row};
    if (m_light.light != render::Light::Plain) {
        const auto lit = m_lit.find(key);
        if (lit != m_lit.end()) {
            lit->second.used = ++m_clock;
            return lit->second.image;
        }
        ask(pyramid, key);
    }
    auto& plain = m_plain[key];
    if (plain.image.isNull()) {
        const auto& image = pyramid.levels[size_t(level)];
        plain.image = toQImage(shown(image(tileBox(image, column, row, 0)), m_inversion));
        trim();
    }
    m_plain[key].used = ++m_clock;
    return m_plain[key].image;
}

void TileStore::ask(const Pyramid& pyramid, const Key& key) {
    if (!m_asked.insert(key).second) return;
    const auto [level, column, row] = key;
    const auto& image = pyramid.levels[size_t(level)];
    const Rect inner = tileBox(image, column, row, 0),
               outer = tileBox(image, column, row, render::margin(m_light, level));
    const Image8 part = image(outer).clone();
    const Rect within(inner.tl() - outer.tl(), inner.size());
    m_jobs.run(
        {}, this,
        [part, within, light = m_light, inversion = m_inversion, level = level](std::stop_token,
                                                                                const Progress&) {
            return toQImage(render::lit(shown(part, inversion), light, level)(within));
        },
        [this, key, version = m_version](QImage made) {
            if (version != m_version) return;
            m_asked.erase(key);
            m_lit[key] = {std::move(made), ++m_clock};
            trim();
            emit this->made();
        });
}

void TileStore::trim() {
    for (auto* tiles : {&m_plain, &m_lit}) {
        if (tiles->size() <= kMost) continue;
        std::vector<std::pair<quint64, Key>> byAge;
        for (const auto& [key, t] : *tiles) byAge.emplace_back(t.used, key);
        std::nth_element(byAge.begin(), byAge.begin() + long(kMost / 4), byAge.end());
        for (size_t i = 0; i < kMost / 4; ++i)
            if (byAge[i].first) tiles->erase(byAge[i].second);
    }
}

void TileStore::setLight(const render::ViewingLight& light) {
    m_light = light;
    m_lit.clear();
    m_asked.clear();
    ++m_version;
}

void TileStore::setInversion(const std::optional<film::Inversion>& inversion) {
    if (m_inversion == inversion) return;
    m_inversion = inversion;
    reset();
}

void TileStore::reset() {
    m_plain.clear();
    setLight(m_light);
}

void TileStore::drop(const std::vector<Rect>& changed) {
    const auto hit = [&](const auto& entry) {
        const auto [level, column, row] = entry.first;
        const int side = kSide << level;
        const Rect box(column * side, row * side, side, side);
        return std::any_of(changed.begin(), changed.end(),
                           [&](const Rect& r) { return !(r & box).empty(); });
    };
    std::erase_if(m_plain, hit);
    if (!changed.empty() && m_light.light != render::Light::Plain) setLight(m_light);
}

}  // namespace gq::desk
