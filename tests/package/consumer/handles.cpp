// Handles of the profile's actions, from the header that CMake has made of it.
#include <cursorum/actions/profile_file.hpp>
#include <fstream>
#include <iterator>

#include "quay_actions.hpp"

int main() {
    std::ifstream file{PROFILE};
    cursorum::ProfileError error;
    const auto profile =
        cursorum::read_profile(std::string{std::istreambuf_iterator<char>{file}, {}}, PROFILE, error);
    return profile && profile->find_button("lock") == quay_actions::crane::lock ? 0 : 1;
}
