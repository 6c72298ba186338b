#include "desk/document/guide_work.h"

#include <array>

#include "core/carry/carry_guides.h"
#include "core/find/smooth_areas.h"

namespace gq::desk {
namespace {

constexpr int kScale = series::kGuideScale;
constexpr float kSoftening = 60;  ///< px of the picture

constexpr std::array<Mask find::Guides::*, 4> kMembers{
    &find::Guides::heed, &find::Guides::hush, &find::Guides::shield, &find::Guides::bounds};

int amountOf(Guide guide, bool erase) {
    if (erase) return -255;
    return guide == Guide::Heed || guide == Guide::Hush ? 128 : 255;
}

}  // namespace

GuideWork::GuideWork(DeskDocument& document, Pictures& pictures, Jobs& jobs, QObject* parent)
    : QObject(parent), m_document(document), m_pictures(pictures), m_jobs(jobs) {}

QString GuideWork::name(Guide guide) {
    const std::array<QString, 4> names{tr("Heed"), tr("Hush"), tr("Shield"), tr("Bounds")};
    return names[size_t(guide)];
}

Mask GuideWork::mask(Guide guide) const {
    const auto frame = m_document.current();
    return frame && frame->guides ? (*frame->guides).*kMembers[size_t(guide)] : Mask{};
}

void GuideWork::change(Guide guide, const QString& what, const Change& by) {
    const auto frame = m_document.current();
    if (!frame) return;
    find::Guides guides = frame->guides ? *frame->guides : find::Guides{};
    Mask& mask = guides.*kMembers[size_t(guide)];
    mask = by(mask, frame->geometry.stored);
    series::Frame changed = *frame;
    changed.guides = std::make_shared<const find::Guides>(std::move(guides));
    m_document.commit(m_document.now()->with(std::move(changed)), what);
}

void GuideWork::paint(Guide guide, const std::vector<PointF>& path, float width, bool erase) {
    change(guide, tr("paint %1").arg(name(guide).toLower()), [&](const Mask& m, const Size& frame) {
        return find::painted(m, frame, kScale, path, width, amountOf(guide, erase));
    });
}

void GuideWork::fill(Guide guide, const std::vector<PointF>& outline, bool erase) {
    change(guide, tr("outline %1").arg(name(guide).toLower()),
           [&](const Mask& m, const Size& frame) {
               return find::filled(m, frame, kScale, outline, amountOf(guide, erase));
           });
}

void GuideWork::invert(Guide guide) {
    change(guide, tr("invert %1").arg(name(guide).toLower()),
           [](const Mask& m, const Size& frame) { return find::invertedMask(m, frame, kScale); });
}

void GuideWork::soften(Guide guide) {
    change(guide, tr("soften %1").arg(name(guide).toLower()),
           [](const Mask& m, const Size&) { return find::softened(m, kScale, kSoftening); });
}

void GuideWork::clear(Guide guide) {
    change(guide, tr("clear %1").arg(name(guide).toLower()),
           [](const Mask&, const Size&) { return Mask{}; });
}

void GuideWork::clearAll() {
    const auto frame = m_document.current();
    if (!frame || !frame->guides) return;
    series::Frame changed = *frame;
    changed.guides = nullptr;
    m_document.commit(m_document.now()->with(std::move(changed)), tr("clear all guides"));
}

void GuideWork::smoothOnly() {
    const auto frame = m_pictures.frame();
    if (!frame || m_pictures.original().empty()) return;
    m_jobs.run(
        tr("Looking for smooth areas"), this,
        [pixels = m_pictures.original()](std::stop_token stop, const Progress&) {
            const Mask smooth = find::smoothAreas(pixels, kScale);
            return stop.stop_requested() ? std::nullopt : std::optional(smooth);
        },
        [this, id = frame->id](const std::optional<Mask>& smooth) {
            if (smooth && m_document.current() && m_document.current()->id == id)
                change(Guide::Bounds, tr("smooth areas only"),
                       [&](const Mask&, const Size&) { return *smooth; });
        });
}

void GuideWork::carry() {
    const auto from = m_document.current();
    if (!from || !from->guides) return;
    series::Series next = *m_document.now();
    for (const auto& f : m_document.now()->frames) {
        if (f == from || !m_document.ticked(f->id)) continue;
        auto there = carry::carriedGuides(*from, *f);
        if (!there) continue;
        series::Frame changed = *f;
        changed.guides = std::move(there);
        next = next.with(std::move(changed));
    }
    m_document.commit(std::move(next), tr("carry the guides"));
}

void GuideWork::markSeen(const Rect& part, double zoom) {
    const auto frame = m_document.current();
    if (!frame) return;
    const Size size = frame->geometry.stored;
    const int k = series::kSeenScale;
    series::Frame changed = *frame;
    changed.seen = frame->seen.empty() ? Mask((size.height + k - 1) / k, (size.width + k - 1) / k,
                                              CV_8U, cv::Scalar(0))
                                       : frame->seen.clone();
    const Point from(part.x / k, part.y / k),
        to((part.br().x + k - 1) / k, (part.br().y + k - 1) / k);
    const Rect cells = Rect(from, to) & Rect({0, 0}, changed.seen.size());
    cv::Mat there = changed.seen(cells);
    cv::max(there, cv::Scalar(std::clamp(zoom * 50, 1.0, 255.0)), there);
    m_document.amend(m_document.now()->with(std::move(changed)));
}

}  // namespace gq::desk
