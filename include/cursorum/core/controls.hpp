// A constant for every control: controls::KeyW, controls::MouseLeft, controls::PadSouth, controls::Shift; the axes,
// controls::PadStickLeftX; the sticks, controls::PadStickLeft.
// `cursorum keys` prints them with descriptions, USB HID usages and Linux codes.
#pragma once

#include "cursorum/core/axis.hpp"
#include "cursorum/core/control.hpp"

namespace cursorum::controls {

// Names are W3C UI Events KeyboardEvent `code` values, and for gamepads places. Numbers are bits of a ButtonSet: the
// keys of USB HID page 0x07 have their usages, the others follow from 232 on.
// clang-format off

// Letters, by their places on a US keyboard.
inline constexpr Button
    KeyA{0x04}, KeyB{0x05}, KeyC{0x06}, KeyD{0x07}, KeyE{0x08}, KeyF{0x09}, KeyG{0x0A}, KeyH{0x0B}, KeyI{0x0C},
    KeyJ{0x0D}, KeyK{0x0E}, KeyL{0x0F}, KeyM{0x10}, KeyN{0x11}, KeyO{0x12}, KeyP{0x13}, KeyQ{0x14}, KeyR{0x15},
    KeyS{0x16}, KeyT{0x17}, KeyU{0x18}, KeyV{0x19}, KeyW{0x1A}, KeyX{0x1B}, KeyY{0x1C}, KeyZ{0x1D};

// Digits above the letters.
inline constexpr Button
    Digit1{0x1E}, Digit2{0x1F}, Digit3{0x20}, Digit4{0x21}, Digit5{0x22}, Digit6{0x23}, Digit7{0x24}, Digit8{0x25},
    Digit9{0x26}, Digit0{0x27};

// Function keys.
inline constexpr Button
    F1{0x3A}, F2{0x3B}, F3{0x3C}, F4{0x3D}, F5{0x3E}, F6{0x3F}, F7{0x40}, F8{0x41}, F9{0x42}, F10{0x43}, F11{0x44},
    F12{0x45}, F13{0x68}, F14{0x69}, F15{0x6A}, F16{0x6B}, F17{0x6C}, F18{0x6D}, F19{0x6E}, F20{0x6F}, F21{0x70},
    F22{0x71}, F23{0x72}, F24{0x73};

// All other keys of a keyboard.
inline constexpr Button
    Enter{0x28}, Escape{0x29}, Backspace{0x2A}, Tab{0x2B}, Space{0x2C}, Minus{0x2D}, Equal{0x2E}, BracketLeft{0x2F},
    BracketRight{0x30}, Backslash{0x31}, Semicolon{0x33}, Quote{0x34}, Backquote{0x35}, Comma{0x36}, Period{0x37},
    Slash{0x38}, CapsLock{0x39}, PrintScreen{0x46}, ScrollLock{0x47}, Pause{0x48}, Insert{0x49}, Home{0x4A},
    PageUp{0x4B}, Delete{0x4C}, End{0x4D}, PageDown{0x4E}, ArrowRight{0x4F}, ArrowLeft{0x50}, ArrowDown{0x51},
    ArrowUp{0x52}, NumLock{0x53}, IntlBackslash{0x64}, ContextMenu{0x65}, Power{0x66}, Open{0x74}, Help{0x75},
    Select{0x77}, Again{0x79}, Undo{0x7A}, Cut{0x7B}, Copy{0x7C}, Paste{0x7D}, Find{0x7E}, AudioVolumeMute{0x7F},
    AudioVolumeUp{0x80}, AudioVolumeDown{0x81}, IntlRo{0x87}, KanaMode{0x88}, IntlYen{0x89}, Convert{0x8A},
    NonConvert{0x8B}, Lang1{0x90}, Lang2{0x91}, Lang3{0x92}, Lang4{0x93}, Lang5{0x94}, Abort{0x9B}, Props{0xA3},
    ControlLeft{0xE0}, ShiftLeft{0xE1}, AltLeft{0xE2}, MetaLeft{0xE3}, ControlRight{0xE4}, ShiftRight{0xE5},
    AltRight{0xE6}, MetaRight{0xE7}, KeyExtra174{118}, KeyExtra175{120}, KeyExtra176{130}, KeyExtra177{131},
    KeyExtra178{132}, KeyExtra181{134}, KeyExtra182{140}, KeyExtra195{141}, KeyExtra196{142}, KeyExtra197{143},
    KeyExtra198{149}, KeyExtra199{150}, KeyExtra200{151}, KeyExtra202{152}, KeyExtra203{153}, KeyExtra204{154},
    KeyExtra205{156}, KeyExtra206{157}, KeyExtra209{158}, KeyExtra210{159}, KeyExtra211{160}, KeyExtra212{161},
    KeyExtra213{162}, KeyExtra214{164}, KeyExtra215{165}, KeyExtra216{166}, KeyExtra218{167}, KeyExtra219{168},
    KeyExtra220{169}, KeyExtra221{170}, KeyExtra222{171}, KeyExtra226{172}, KeyExtra228{173}, KeyExtra229{174},
    KeyExtra230{175}, KeyExtra234{176}, KeyExtra235{177}, KeyExtra236{178}, KeyExtra237{179}, KeyExtra238{180},
    KeyExtra239{181}, KeyExtra240{184}, KeyExtra241{185}, KeyExtra242{186}, KeyExtra243{188}, KeyExtra244{189},
    KeyExtra245{190}, KeyExtra246{191}, KeyExtra247{192};

// The number pad.
inline constexpr Button
    NumpadDivide{0x54}, NumpadMultiply{0x55}, NumpadSubtract{0x56}, NumpadAdd{0x57}, NumpadEnter{0x58}, Numpad1{0x59},
    Numpad2{0x5A}, Numpad3{0x5B}, Numpad4{0x5C}, Numpad5{0x5D}, Numpad6{0x5E}, Numpad7{0x5F}, Numpad8{0x60},
    Numpad9{0x61}, Numpad0{0x62}, NumpadDecimal{0x63}, NumpadEqual{0x67}, NumpadComma{0x85}, NumpadParenLeft{0xB6},
    NumpadParenRight{0xB7}, NumpadBackspace{0xBB}, NumpadMemoryStore{0xD0}, NumpadMemoryRecall{0xD1},
    NumpadMemoryClear{0xD2}, NumpadMemoryAdd{0xD3}, NumpadMemorySubtract{0xD4}, NumpadClear{0xD8},
    NumpadClearEntry{0xD9}, NumpadStar{260}, NumpadHash{261};

// Media, power and other keys.
inline constexpr Button
    Sleep{256}, WakeUp{257}, Fn{258}, FnLock{259}, MediaTrackNext{262}, MediaTrackPrevious{263}, MediaStop{264},
    Eject{265}, MediaPlayPause{266}, MediaSelect{267}, LaunchMail{268}, LaunchApp2{269}, LaunchApp1{270},
    BrowserSearch{271}, BrowserHome{272}, BrowserBack{273}, BrowserForward{274}, BrowserStop{275},
    BrowserRefresh{276}, BrowserFavorites{277}, MediaPlay{278}, MediaPause{279}, MediaRecord{280},
    MediaFastForward{281}, MediaRewind{282}, BrightnessUp{283}, BrightnessDown{284}, DisplayToggleIntExt{285},
    MailReply{286}, MailForward{287}, MailSend{232}, ShowAllWindows{233}, KeyExtra84{234}, KeyExtra95{235},
    KeyExtra101{236}, KeyExtra112{237}, KeyExtra118{238}, KeyExtra139{239}, KeyExtra141{240}, KeyExtra145{241},
    KeyExtra146{242}, KeyExtra147{243}, KeyExtra148{244}, KeyExtra149{245}, KeyExtra150{246}, KeyExtra151{247},
    KeyExtra152{248}, KeyExtra153{249}, KeyExtra154{250}, KeyExtra157{251}, KeyExtra160{252}, KeyExtra162{253},
    KeyExtra169{254}, KeyExtra170{255};

// The mouse. The wheel is not a button.
inline constexpr Button
    MouseLeft{288}, MouseRight{289}, MouseMiddle{290}, MouseBack{291}, MouseForward{292}, MouseExtra6{293},
    MouseExtra7{294}, MouseExtra8{295}, MouseExtra9{296}, MouseExtra10{297}, MouseExtra11{298}, MouseExtra12{299},
    MouseExtra13{300}, MouseExtra14{301}, MouseExtra15{302}, MouseExtra16{303};

// Gamepads, by place.
inline constexpr Button
    PadSouth{304}, PadEast{305}, PadNorth{306}, PadWest{307}, PadShoulderLeft{308}, PadShoulderRight{309},
    PadTriggerLeft{310}, PadTriggerRight{311}, PadSelect{312}, PadStart{313}, PadMode{314}, PadThumbLeft{315},
    PadThumbRight{316}, PadHatUp{317}, PadHatDown{318}, PadHatLeft{319}, PadHatRight{320}, PadExtra1{321},
    PadExtra2{322}, PadExtra3{323}, PadExtra4{324}, PadExtra5{325}, PadExtra6{326}, PadExtra7{327}, PadExtra8{328},
    PadExtra9{329}, PadExtra10{330}, PadExtra11{331}, PadExtra12{332}, PadExtra13{333}, PadExtra14{334},
    PadExtra15{335}, PadExtra16{336}, PadExtra17{337}, PadExtra18{338}, PadExtra19{339}, PadExtra20{340},
    PadExtra21{341}, PadExtra22{342}, PadExtra23{343}, PadExtra24{344}, PadExtra25{345}, PadExtra26{346},
    PadExtra27{347}, PadExtra28{348}, PadExtra29{349}, PadExtra30{350}, PadExtra31{351}, PadExtra32{193},
    PadExtra33{194}, PadExtra34{195}, PadExtra35{196}, PadExtra36{197}, PadExtra37{198}, PadExtra38{199},
    PadExtra39{200}, PadExtra40{201}, PadExtra41{202}, PadExtra42{203}, PadExtra43{204}, PadExtra44{205},
    PadExtra45{206}, PadExtra46{207}, PadExtra47{213}, PadExtra48{214}, PadExtra49{215};

// A stick pushed in a direction, as a button: to be asked, never posted.
inline constexpr Button
    PadStickLeftUp{416}, PadStickLeftDown{417}, PadStickLeftLeft{418}, PadStickLeftRight{419}, PadStickRightUp{420},
    PadStickRightDown{421}, PadStickRightLeft{422}, PadStickRightRight{423};

// Another axis of a gamepad pushed to its negative side, as a button: likewise.
inline constexpr Button
    PadAxisExtra1Negative{365}, PadAxisExtra2Negative{367}, PadAxisExtra3Negative{369}, PadAxisExtra4Negative{371},
    PadAxisExtra5Negative{373}, PadAxisExtra6Negative{375}, PadAxisExtra7Negative{377}, PadAxisExtra8Negative{379},
    PadAxisExtra9Negative{381}, PadAxisExtra10Negative{383}, PadAxisExtra11Negative{385}, PadAxisExtra12Negative{387},
    PadAxisExtra13Negative{389}, PadAxisExtra14Negative{391}, PadAxisExtra15Negative{393},
    PadAxisExtra16Negative{395}, PadAxisExtra17Negative{397}, PadAxisExtra18Negative{399},
    PadAxisExtra19Negative{401}, PadAxisExtra20Negative{403}, PadAxisExtra21Negative{405},
    PadAxisExtra22Negative{407}, PadAxisExtra23Negative{409}, PadAxisExtra24Negative{411},
    PadAxisExtra25Negative{413}, PadAxisExtra26Negative{415};

// Either of two keys: to be asked, never posted.
inline constexpr Button
    Control{444}, Shift{445}, Alt{446}, Meta{447};
// clang-format on

// Axes and sticks.
inline constexpr Axis PadStickLeftX{0}, PadStickLeftY{1}, PadStickRightX{2}, PadStickRightY{3}, PadPullLeft{4},
    PadPullRight{5};
inline constexpr Axis PadAxisExtra1{6}, PadAxisExtra2{7}, PadAxisExtra3{8}, PadAxisExtra4{9}, PadAxisExtra5{10},
    PadAxisExtra6{11}, PadAxisExtra7{12}, PadAxisExtra8{13}, PadAxisExtra9{14}, PadAxisExtra10{15}, PadAxisExtra11{16},
    PadAxisExtra12{17}, PadAxisExtra13{18}, PadAxisExtra14{19}, PadAxisExtra15{20}, PadAxisExtra16{21},
    PadAxisExtra17{22}, PadAxisExtra18{23}, PadAxisExtra19{24}, PadAxisExtra20{25}, PadAxisExtra21{26},
    PadAxisExtra22{27}, PadAxisExtra23{28}, PadAxisExtra24{29}, PadAxisExtra25{30}, PadAxisExtra26{31};
inline constexpr Stick PadStickLeft{0}, PadStickRight{1};

}  // namespace cursorum::controls
