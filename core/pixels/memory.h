#pragma once

namespace gq {

/// Keeps the memory of freed planes of up to 100 MB for the next ones, instead of giving it back to
/// the system and having it cleared anew: a tenth of the time of work on whole frames. For
/// programs' starts; glibc only, nothing happens elsewhere.
void keepFreedMemory();

}  // namespace gq
