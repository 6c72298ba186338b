#include "core/pixels/memory.h"

#include <algorithm>
#include <cstdlib>  // tells of glibc
#include <map>
#include <mutex>
#include <opencv2/core.hpp>
#include <vector>

#ifdef __GLIBC__
#include <malloc.h>
#include <sys/mman.h>
#endif

namespace gq {

#if defined(__GLIBC__) && !defined(__SANITIZE_ADDRESS__)

namespace {

constexpr size_t kHuge = 2 << 20;    ///< bytes of a huge page
constexpr size_t kKept = 512 << 20;  ///< bytes of freed planes that are kept
constexpr size_t kSpare = 2;         ///< a kept plane serves one smaller by up to a third

size_t rounded(size_t bytes) {
    return (bytes + kHuge - 1) / kHuge * kHuge;
}

/// Memory of planes, on whole huge pages.
class Planes {
  public:
    void* take(size_t bytes) {
        const size_t need = rounded(bytes);
        std::vector<Kept> gone;
        {
            const std::lock_guard lock(m_guard);
            const auto found = m_free.lower_bound(need);
            if (found != m_free.end() && found->first <= need + need / kSpare)
                return hand(unkept(found));
            gone = surplus(need);
        }
        for (const auto& [size, plane] : gone) munmap(plane, size);
        void* out = mapped(need);
        const std::lock_guard lock(m_guard);
        return hand({need, out});
    }

    void giveBack(void* plane) {
        std::unique_lock lock(m_guard);
        const auto taken = m_taken.find(plane);
        const size_t size = taken->second;
        m_taken.erase(taken);
        m_inUse -= size;
        if (m_kept + size <= kKept) {
            m_free.emplace(size, plane);
            m_kept += size;
            return;
        }
        lock.unlock();
        munmap(plane, size);
    }

  private:
    using Kept = std::pair<size_t, void*>;

    Kept unkept(std::multimap<size_t, void*>::iterator kept) {
        const Kept out = *kept;
        m_kept -= out.first;
        m_free.erase(kept);
        return out;
    }

    void* hand(const Kept& plane) {
        m_taken[plane.second] = plane.first;
        m_inUse += plane.first;
        m_most = std::max(m_most, m_inUse);
        return plane.second;
    }

    /// Kept planes of other sizes that go, so that keeping them takes no more memory than work did
    /// at its most.
    std::vector<Kept> surplus(size_t bytes) {
        std::vector<Kept> out;
        while (!m_free.empty() && m_inUse + m_kept + bytes > m_most)
            out.push_back(unkept(std::prev(m_free.end())));
        return out;
    }

    /// Begins and ends on a huge page, or the system would not use them.
    static void* mapped(size_t size) {
        auto* wide = static_cast<char*>(mmap(nullptr, size + kHuge, PROT_READ | PROT_WRITE,
                                             MAP_PRIVATE | MAP_ANONYMOUS, -1, 0));
        if (wide == MAP_FAILED)
            CV_Error_(cv::Error::StsNoMem, ("Failed to allocate %zu bytes", size));
        const size_t before = (kHuge - reinterpret_cast<size_t>(wide) % kHuge) % kHuge;
        if (before > 0) munmap(wide, before);
        munmap(wide + before + size, kHuge - before);
        madvise(wide + before, size, MADV_HUGEPAGE);
        return wide + before;
    }

    std::mutex m_guard;
    std::multimap<size_t, void*> m_free;
    std::map<void*, size_t> m_taken;
    size_t m_kept = 0, m_inUse = 0, m_most = 0;  ///< bytes
};

/// OpenCV's pixels from `Planes` where they are large.
class PlaneAllocator : public cv::MatAllocator {
  public:
    cv::UMatData* allocate(int dims, const int* sizes, int type, void* data, size_t* step,
                           cv::AccessFlag access, cv::UMatUsageFlags usage) const override {
        size_t total = CV_ELEM_SIZE(type);
        for (int i = 0; i < dims; ++i) total *= size_t(sizes[i]);
        if (data || total < kHuge)
            return cv::Mat::getStdAllocator()->allocate(dims, sizes, type, data, step, access,
                                                        usage);
        size_t stretch = CV_ELEM_SIZE(type);
        for (int i = dims - 1; i >= 0; --i) {
            if (step) step[i] = stretch;
            stretch *= size_t(sizes[i]);
        }
        auto* out = new cv::UMatData(this);
        out->size = total;
        out->data = out->origdata = static_cast<uchar*>(m_planes.take(total));
        return out;
    }
    bool allocate(cv::UMatData* data, cv::AccessFlag, cv::UMatUsageFlags) const override {
        return data != nullptr;
    }
    void deallocate(cv::UMatData* data) const override {
        m_planes.giveBack(data->origdata);
        delete data;
    }

  private:
    mutable Planes m_planes;
};

}  // namespace

void keepFreedMemory() {
    constexpr int kPlane = 100 << 20, kHeap = 5 * kPlane;  // bytes
    mallopt(M_MMAP_THRESHOLD, kPlane);
    mallopt(M_TRIM_THRESHOLD, kHeap);
    static PlaneAllocator* const planes = new PlaneAllocator;  // outlives all pictures
    cv::Mat::setDefaultAllocator(planes);
}

#else

void keepFreedMemory() {}

#endif

}  // namespace gq
