#include "core/pixels/median.h"

#include <algorithm>
#include <array>
#include <opencv2/core/hal/intrin.hpp>
#include <opencv2/imgproc.hpp>
#include <vector>

#include "core/pixels/parallel.h"

namespace gq {
namespace {

using Lanes = cv::v_uint8x16;  ///< so many places are worked on at once
constexpr int kLanes = 16, kSide = 7, kReach = kSide / 2;
using Column = std::array<Lanes, kSide>;

void order(Lanes& a, Lanes& b) {
    const Lanes least = cv::v_min(a, b);
    b = cv::v_max(a, b);
    a = least;
}

void sort(Column& v) {
    constexpr std::array<std::array<size_t, 2>, 16> kNetwork{{{0, 6},
                                                              {2, 3},
                                                              {4, 5},
                                                              {0, 2},
                                                              {1, 4},
                                                              {3, 6},
                                                              {0, 1},
                                                              {2, 5},
                                                              {3, 4},
                                                              {1, 2},
                                                              {4, 6},
                                                              {2, 3},
                                                              {4, 5},
                                                              {1, 2},
                                                              {3, 4},
                                                              {5, 6}}};
#pragma GCC unroll 16
    for (const auto& [a, b] : kNetwork) order(v[a], v[b]);
}

/// The middle one of the N values at `v` and the N - 3 at `more`: neither the least nor the most of
/// more than half of all can be it, so that both are forgotten for one more.
template <int N>
Lanes middle(Lanes* v, const Lanes* more) {
#pragma GCC unroll 16
    for (int i = 0; i < N / 2; ++i) order(v[i], v[N - 1 - i]);
#pragma GCC unroll 16
    for (int i = 1; i < (N + 1) / 2; ++i) order(v[0], v[i]);
#pragma GCC unroll 16
    for (int i = N / 2; i < N - 1; ++i) order(v[i], v[N - 1]);
    if constexpr (N == 3) {
        return v[1];
    } else {
        v[N - 1] = *more;
        return middle<N - 1>(v + 1, more + 1);
    }
}

/// Of a square whose columns are sorted, the rows' k-th values at `rows[k]`.
Lanes middleOfSquare(const std::array<const uchar*, kSide>& rows, int step) {
    constexpr int kHalf = (kSide * kSide + 1) / 2;
    Lanes left[kSide * kSide];
    int count = 0;
#pragma GCC unroll 8
    for (int j = 0; j < kSide; ++j) {
        Column row;
#pragma GCC unroll 8
        for (int i = 0; i < kSide; ++i) row[size_t(i)] = cv::v_load(rows[size_t(j)] + i * step);
        sort(row);
#pragma GCC unroll 8
        for (int i = 0; i < kSide; ++i)
            // Of those left out more than half of all are at most, or at least, as large.
            if ((i + 1) * (j + 1) <= kHalf && (kSide - i) * (kSide - j) <= kHalf)
                left[count++] = row[size_t(i)];
    }
    return middle<16>(left, left + 16);  // of 29
}

/// Rows `from` to `to` of the median over 7 x 7; `wide` is the plane continued by what is read.
void networkMedian(const Image8& wide, int from, int to, Image8& out) {
    const int channels = out.channels(), bytes = out.cols * channels;
    const int widest = bytes + 2 * kReach * channels + 2 * kLanes;
    const auto stride = size_t(widest);
    std::vector<uchar> sorted(kSide * stride), made(stride);
    std::array<const uchar*, kSide> rows;
    for (int y = from; y < to; ++y) {
        for (int x = 0; x < bytes + 2 * kReach * channels; x += kLanes) {
            Column column;
            for (int j = 0; j < kSide; ++j) column[size_t(j)] = cv::v_load(wide.ptr(y + j) + x);
            sort(column);
            for (size_t j = 0; j < kSide; ++j)
                cv::v_store(&sorted[j * stride + size_t(x)], column[j]);
        }
        for (int x = 0; x < bytes; x += kLanes) {
            for (size_t j = 0; j < kSide; ++j) rows[j] = &sorted[j * stride + size_t(x)];
            cv::v_store(&made[size_t(x)], middleOfSquare(rows, channels));
        }
        std::copy_n(made.data(), bytes, out.ptr(y));
    }
}

}  // namespace

Image8 median(const Image8& plane, int side, std::stop_token stop) {
    Image8 out(plane.size(), plane.type()), wide;
    const bool network = side == kSide;
    if (network)
        cv::copyMakeBorder(plane, wide, kReach, kReach, kReach, kReach + kLanes,
                           cv::BORDER_REPLICATE);
    const int band = 256, count = (plane.rows + band - 1) / band, margin = side / 2;
    forEach(
        count,
        [&](int i) {
            const int top = i * band, bottom = std::min(plane.rows, top + band);
            if (network) return networkMedian(wide, top, bottom, out);
            const int from = std::max(0, top - margin), to = std::min(plane.rows, bottom + margin);
            Image8 filtered;
            cv::medianBlur(plane.rowRange(from, to), filtered, side);
            filtered.rowRange(top - from, bottom - from).copyTo(out.rowRange(top, bottom));
        },
        stop);
    return out;
}

}  // namespace gq
