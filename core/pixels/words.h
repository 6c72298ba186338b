#pragma once
#include <string>
#include <string_view>

namespace gq {

/// "1 mend", "2 mends", "3 scratches".
[[nodiscard]] std::string counted(long n, std::string_view noun);

}  // namespace gq
