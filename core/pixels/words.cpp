#include "core/pixels/words.h"

#include <fmt/core.h>

namespace gq {

std::string counted(long n, std::string_view noun) {
    const bool hissing = noun.ends_with("ch") || noun.ends_with('s');
    return fmt::format("{} {}{}", n, noun, n == 1 ? "" : hissing ? "es" : "s");
}

}  // namespace gq
