#include "core/find/kind.h"

namespace gq::find {

Kind kindOf(const Measures& m, float straightness, Origin origin) {
    const bool line = m.length > 18 && m.length > 4 * m.width;
    if (!line) return origin == Origin::Sensor ? Kind::Shadow : Kind::Speck;
    if (origin == Origin::Print) return Kind::Crack;
    if (origin == Origin::Sensor) return Kind::Fibre;
    return straightness > 0.55f && m.length > 60 ? Kind::Scratch : Kind::Fibre;
}

}  // namespace gq::find
