#include "core/find/closer_look.h"

#include <algorithm>
#include <opencv2/dnn.hpp>

#include "find_look_weights.h"

namespace gq::find {

LookNetwork lookNetworkFor(Origin origin) {
    return origin == Origin::Sensor ? LookNetwork(kSensorLook) : LookNetwork(kScanLook);
}

bool hasCloserLook(Origin origin, Polarity polarity) {
    return origin != Origin::Sensor || polarity == Polarity::Dark;
}

std::vector<float> closerLook(const std::vector<Look>& looks, LookNetwork network,
                              std::stop_token stop) {
    constexpr size_t kBatch = 32;
    std::vector<float> out;
    if (looks.empty()) return out;
    // A network keeps its working planes: each call has its own.
    auto net =
        cv::dnn::readNetFromONNX(reinterpret_cast<const char*>(network.data()), network.size());
    net.setPreferableBackend(cv::dnn::DNN_BACKEND_OPENCV);
    for (size_t from = 0; from < looks.size(); from += kBatch) {
        if (stop.stop_requested()) return std::vector<float>(looks.size());
        const size_t count = std::min(kBatch, looks.size() - from);
        // Always a full batch: the planes are laid out once.
        const int shape[] = {int(kBatch), kLookPlanes, kLookSide, kLookSide};
        cv::Mat blob(4, shape, CV_32F, cv::Scalar(0));
        auto* b = blob.ptr<float>();
        for (size_t i = 0; i < count; ++i)
            for (const uchar v : looks[from + i]) *b++ = float(v) / 255 - 0.5f;
        net.setInput(blob);
        const cv::Mat odds = net.forward();
        for (size_t i = 0; i < count; ++i) out.push_back(odds.ptr<float>()[i]);
    }
    return out;
}

}  // namespace gq::find
