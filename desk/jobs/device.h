#pragma once
#include <QStringList>
#include <stop_token>

#include "core/pixels/parallel.h"
#include "core/pixels/result.h"

namespace gq::desk {

/// Runs a simulated device's program to its end, on the calling (worker) thread. Percentages on its
/// standard error become progress; a stop ends it, and what it wrote so far stays.
/// Errors: NotFound (no such program), Unreadable (it failed, with its own words), Cancelled.
[[nodiscard]] Status runDevice(const QString& program, const QStringList& arguments,
                               const Progress& progress, std::stop_token stop);

}  // namespace gq::desk
