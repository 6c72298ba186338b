#include "core/pixels/memory.h"

#include <cstdlib>  // tells of glibc

#ifdef __GLIBC__
#include <malloc.h>
#endif

namespace gq {

void keepFreedMemory() {
#ifdef __GLIBC__
    constexpr int kPlane = 100 << 20, kKept = 5 * kPlane;  // bytes
    mallopt(M_MMAP_THRESHOLD, kPlane);
    mallopt(M_TRIM_THRESHOLD, kKept);
#endif
}

}  // namespace gq
