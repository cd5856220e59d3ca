// Drawings of devices: every control is there once, in its state, within the room, and none covers another.
#include "cursorum/views/control_picture.hpp"

#include <gtest/gtest.h>

#include <map>
#include <random>
#include <string>
#include <utility>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/timeline.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

ButtonSet with_role(const Picture& picture, PictureRole role) {
    ButtonSet all;
    for (const PictureShape& shape : picture.shapes)
        if (shape.role == role) all.insert(shape.control);
    all.erase({});
    return all;
}
std::string text_below(const Picture& picture) {
    for (const PictureShape& shape : picture.shapes)
        if (shape.form == PictureShape::Form::text && !shape.control) return shape.text;
    return {};
}

const ButtonSet pad_buttons{PadSouth,      PadEast,  PadWest,    PadNorth,       PadShoulderLeft, PadShoulderRight,
                            PadSelect,     PadStart, PadMode,    PadTriggerLeft, PadTriggerRight, PadThumbLeft,
                            PadThumbRight, PadHatUp, PadHatDown, PadHatLeft,     PadHatRight};

TEST(ControlPicture, FillsWhatIsDownAndListsWhatItDoesNotDraw) {
    std::mt19937 random{1};
    for (const DeviceKind kind : {DeviceKind::gamepad, DeviceKind::mouse, DeviceKind::keyboard}) {
        const Picture at_rest = control_picture({}, {.kind = kind});
        const ButtonSet drawn = with_role(at_rest, PictureRole::control);
        EXPECT_TRUE(with_role(at_rest, PictureRole::control_down).empty());
        EXPECT_TRUE(kind != DeviceKind::gamepad || drawn == pad_buttons);
        for (int round = 0; round < 200; ++round) {
            DeviceSnapshot now;
            std::vector<Button> all{PadExtra1, Numpad7, MouseExtra6};
            drawn.for_each([&](Button button) { all.push_back(button); });
            for (const Button button : all)
                if (random() % 4 == 0) now.down.insert(button);
            const Picture picture = control_picture(now, {.kind = kind});
            EXPECT_EQ(with_role(picture, PictureRole::control_down), now.down & drawn);
            const Button other = kind == DeviceKind::gamepad ? PadExtra1
                                 : kind == DeviceKind::mouse ? MouseExtra6
                                                             : Numpad7;
            EXPECT_EQ(text_below(picture), now.down.contains(other) ? name_of(other) : "");
        }
    }
    EXPECT_TRUE(control_picture({}, {.kind = DeviceKind::touch}).shapes.empty());
}

TEST(ControlPicture, StaysInItsRoomAndNoControlCoversAnother) {
    for (const DeviceKind kind : {DeviceKind::gamepad, DeviceKind::mouse, DeviceKind::keyboard})
        for (const auto& [width, height] : {std::pair{320.0, 220.0}, {120.0, 300.0}, {900.0, 90.0}}) {
            ButtonSet marked;
            for (std::uint16_t i = 1; i < button_capacity; ++i) marked.insert(Button{i});
            DeviceSnapshot now;
            now.sticks = {Vector2{1, -1}, Vector2{-1, 1}};
            const Picture picture =
                control_picture(now, {.kind = kind, .width = width, .height = height, .marked = marked});
            std::map<unsigned, const PictureShape*> places;
            for (const PictureShape& shape : picture.shapes) {
                if (!shape.control || shape.form == PictureShape::Form::text) continue;
                EXPECT_GE(shape.x, -4) << name_of(shape.control);
                EXPECT_GE(shape.y, -4) << name_of(shape.control);
                EXPECT_LE(shape.x + shape.width, width + 4) << name_of(shape.control);
                EXPECT_LE(shape.y + shape.height, height + 4) << name_of(shape.control);
                if (shape.role == PictureRole::control) places.try_emplace(shape.control.number, &shape);
            }
            for (const auto& [number, one] : places)
                for (const auto& [other_number, other] : places) {
                    const bool is_apart = one->x >= other->x + other->width || other->x >= one->x + one->width ||
                                          one->y >= other->y + other->height || other->y >= one->y + one->height;
                    EXPECT_TRUE(is_apart || number == other_number)
                        << name_of(one->control) << " and " << name_of(other->control);
                }
        }
}

TEST(ControlPicture, ShowsSticksTriggersMarksAndLabels) {
    DeviceSnapshot now;
    const auto knob = [&] {
        std::pair<double, double> found;  // the last circle: the ring comes first
        for (const PictureShape& shape : control_picture(now).shapes)
            if (shape.control == PadThumbLeft && shape.form == PictureShape::Form::circle) found = {shape.x, shape.y};
        return found;
    };
    const auto rest = knob();
    now.sticks[0] = {1, 0};
    EXPECT_GT(knob().first, rest.first + 5);
    EXPECT_EQ(knob().second, rest.second);
    now.pulls = {0.5, 0};
    const Picture pulled = control_picture(now, {.marked = {PadSouth}});
    double outline = 0, part = 0;
    for (const PictureShape& shape : pulled.shapes)
        if (shape.control == PadTriggerLeft && shape.form == PictureShape::Form::rectangle)
            (shape.role == PictureRole::control_down ? part : outline) = shape.height;
    EXPECT_DOUBLE_EQ(part, outline / 2);
    EXPECT_EQ(with_role(pulled, PictureRole::control_marked), ButtonSet{PadSouth});
    const auto label_of = [](const Picture& picture, Button button) {
        for (const PictureShape& shape : picture.shapes)
            if (shape.control == button && shape.form == PictureShape::Form::text) return shape.text;
        return std::string{};
    };
    const ControlPictureOptions keys{.kind = DeviceKind::keyboard, .keys = {KeyW, KeyA, KeyS, KeyD, ArrowUp}};
    EXPECT_EQ(with_role(control_picture({}, keys), PictureRole::control), keys.keys);
    EXPECT_EQ(label_of(control_picture({}, keys), KeyW), "W");
    EXPECT_EQ(label_of(control_picture({}, keys), ArrowUp), "Up");
    ControlPictureOptions labelled = keys;
    labelled.label = [](std::string_view name) {
        return name == "KeyW" ? "Z" : name == "KeyA" ? "too long a text" : "";
    };
    EXPECT_EQ(label_of(control_picture({}, labelled), KeyW), "Z");
    EXPECT_EQ(label_of(control_picture({}, labelled), KeyA), "");
    EXPECT_EQ(label_of(control_picture({}, labelled), KeyS), "S");
}

TEST(ControlPicture, ShowsAllDevicesAsOne) {
    Timeline timeline;
    Inlet& inlet = timeline.desk();
    inlet.connect(DeviceId{11}, {.kind = DeviceKind::gamepad}, Time{Duration{1}});
    Sampler sampler{timeline, {.start = Time{Duration{1}}}};
    inlet.button(DeviceId{11}, PadSouth, true, Time{Duration{2}});
    inlet.button(desk_keyboard, ShiftLeft, true, Time{Duration{3}});
    inlet.axis(DeviceId{11}, PadPullRight, 1, Time{Duration{4}});
    const DeviceSnapshot all = all_devices(sampler.advance(Time{Duration{5}}));
    EXPECT_EQ(with_role(control_picture(all), PictureRole::control_down), (ButtonSet{PadSouth, PadTriggerRight}));
    EXPECT_EQ(with_role(control_picture(all, {.kind = DeviceKind::keyboard}), PictureRole::control_down),
              ButtonSet{ShiftLeft});
}

}  // namespace
