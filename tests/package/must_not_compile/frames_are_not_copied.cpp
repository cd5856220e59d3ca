// A frame belongs to its sampler and cannot be kept; figures and snapshots can.
#include <cursorum/cursorum.hpp>

void keep(cursorum::Sampler& sampler) {
    const cursorum::Frame& frame = sampler.frame();
    const cursorum::Snapshot levels = frame.current();
    const cursorum::ButtonFigures space = frame[cursorum::controls::Space].figures();
    static_cast<void>(levels);
    static_cast<void>(space);
#ifdef MISTAKE
    const cursorum::Frame copy = frame;
    static_cast<void>(copy);
#endif
}
