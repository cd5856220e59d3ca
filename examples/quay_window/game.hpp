// The game: what a frame of input does to the quay, the bay plan, the job list, a label and the menu. It knows no
// window, no clock and no source, so that a test can play it at any frame rate.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/binding_capture.hpp"
#include "cursorum/actions/player_profile.hpp"
#include "cursorum/cursorum.hpp"
#include "layout.hpp"
#include "quay.hpp"

class Game {
public:
    explicit Game(cursorum::PlayerProfile player);

    /// The window's size: it decides where clicks count.
    void set_layout(const Layout& layout);
    /// One frame of input, and what it does to the world in `step` seconds.
    void update(const cursorum::Frame& frame, double step);
    /// The window lost the focus, or the pad is gone.
    void pause() { actions.open(menu_mode()); }

    // What is drawn.
    Quay quay;
    Layout layout;
    struct Place {
        std::size_t column = 0, level = 0;
        friend bool operator==(const Place&, const Place&) = default;
    };
    std::optional<Place> hovered, selected, dragged;
    cursorum::WindowPoint drag_to;
    double zoom = 1, zoom_x = 0, zoom_y = 0;
    std::vector<std::string> jobs;
    std::size_t job = 0, taken_job = 0;
    std::size_t menu_line = 0;
    enum class Panel : unsigned char { lanes, controls, nothing } panel{};
    cursorum::DeviceKind last_used = cursorum::DeviceKind::keyboard;
    std::function<std::string(std::string_view control)> symbol;  // what is printed on a key; empty: its name
    std::string news = "Lower the spreader onto a box, and lock it.";
    bool is_naming() const { return actions.is_open(naming_mode()); }
    std::string preview() const;  // what an input method is composing

    /// The menu's lines as they are shown.
    std::vector<std::string> menu_lines() const;
    /// What to press for an action, on the device that was used last.
    std::string label_of(const char* action) const;

    // What the loop does.
    bool wants_to_quit = false, wants_why = false, wants_save = false;
    bool has_new_settings = false;  // the player's file is to be written, and pads to be shaped

    cursorum::PlayerProfile player;
    // The first operator has the keyboard, the mouse, the first pad and the menu; the second one has the second pad, or
    // half of the keyboard while that pad is away.
    cursorum::Seats seats{2};
    cursorum::ActionReader actions, second;
    bool has_second() const { return seats.has_device(1) || seats.is_away(1); }

private:
    static cursorum::ModeHandle naming_mode();
    static cursorum::ModeHandle menu_mode();
    void share(const cursorum::Frame& frame);
    void drive(Crane& crane, cursorum::ActionReader& by, double step);
    void use_plan(const cursorum::Frame& frame);
    void use_list();
    void type_label();
    void use_menu(const cursorum::Frame& frame);
    void change(std::size_t line, int by);
    void use_settings();
    double setting(std::size_t line) const;
    Box* selected_box();

    bool has_begun_ = false, has_first_pad_ = false;
    std::optional<cursorum::BindingCapture> capture_;
    const char* capturing_ = "";
};
