#pragma once
#include <QImage>
#include <QObject>
#include <map>
#include <optional>
#include <set>
#include <tuple>

#include "core/film/inversion.h"
#include "core/pixels/pyramid.h"
#include "core/render/viewing_light.h"
#include "desk/jobs/jobs.h"

namespace gq::desk {

/// Screen-ready tiles of a pyramid in a viewing light, kept up to a memory bound. Plain tiles are
/// made at once (a copy); those of other lights in the background, the plain one standing in.
class TileStore : public QObject {
    Q_OBJECT
  public:
    static constexpr int kSide = 256;
    explicit TileStore(Jobs& jobs, QObject* parent = nullptr);

    /// A tile of `level`; smaller at the right and lower edge. `pyramid` must be the one of the
    /// last `reset`.
    [[nodiscard]] QImage tile(const Pyramid& pyramid, int level, int column, int row);
    void setLight(const render::ViewingLight& light);
    /// Shows a negative inverted; nothing = as it is.
    void setInversion(const std::optional<film::Inversion>& inversion);
    void reset();
    /// Drops tiles that show any of these full-size boxes.
    void drop(const std::vector<Rect>& changed);
    [[nodiscard]] bool settled() const { return m_asked.empty(); }

  signals:
    void made();

  private:
    using Key = std::tuple<int, int, int>;
    struct Tile {
        QImage image;
        quint64 used = 0;
    };
    void ask(const Pyramid& pyramid, const Key& key);
    void trim();

    Jobs& m_jobs;
    render::ViewingLight m_light;
    std::optional<film::Inversion> m_inversion;
    std::map<Key, Tile> m_plain, m_lit;
    std::set<Key> m_asked;
    quint64 m_clock = 0;
    int m_version = 0;
};

}  // namespace gq::desk
