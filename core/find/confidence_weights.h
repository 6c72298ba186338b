#pragma once
#include <array>

namespace gq::find {

/// Logistic regression over the ten features of confidence.cpp and their products (i <= j), fitted
/// on the rendered series and on packaged photographs with simulated dust.
inline constexpr float kBias = -3.10210f;
inline constexpr std::array<float, 65> kWeights{
    1.03607f,  0.31295f,  0.50874f,  -0.06954f, 0.23929f,  0.62058f,  0.10132f,  -0.19813f,
    1.36136f,  0.27577f,  -0.41214f, 0.23789f,  0.08210f,  0.32470f,  -0.21990f, -0.47690f,
    -0.56936f, 0.12442f,  -0.75070f, 0.51801f,  -0.23484f, -0.45379f, 0.02974f,  0.17361f,
    0.02078f,  0.09238f,  -0.15666f, -0.22918f, -0.04297f, -0.00052f, 0.24490f,  0.09546f,
    0.52344f,  0.34752f,  0.14857f,  -0.00876f, -0.56988f, -0.01146f, 0.13035f,  0.00948f,
    -0.23919f, 0.32138f,  0.09215f,  -0.11313f, 0.00144f,  0.05929f,  -0.03357f, 0.26857f,
    0.38996f,  -0.08671f, -0.04131f, -0.04405f, 0.01404f,  0.08120f,  0.12656f,  0.44112f,
    0.49952f,  0.06597f,  -0.06386f, 0.51834f,  0.07012f,  -0.49476f, -0.16786f, -0.38772f,
    -0.34805f,
};

}  // namespace gq::find
