// An engine's own callbacks, in one translation unit …
#include <cursorum/cursorum.hpp>

cursorum::Timeline timeline;

void on_key(cursorum::Button key, bool down) { timeline.desk().button(key, down); }
void on_move(float dx, float dy) { timeline.desk().motion(dx, dy); }
void on_focus(bool has) { has ? timeline.desk().gain_focus(cursorum::unknown_state) : timeline.desk().lose_focus(); }
