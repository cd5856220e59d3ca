// Looks through a TOML text for what the TOML library must not meet: it asserts on some texts where it should report an
// error. The scan knows just enough of the grammar to name the line.
#include "actions/toml_keys.hpp"

#include <cstddef>

namespace cursorum {
namespace {

bool is_bare(char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' || c == '-';
}

bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r'; }

class Walk {
public:
    explicit Walk(std::string_view text) : text_{text} {}

    std::optional<BadKey> run() {
        while (skip_blank(true), !at_end() && !bad_) {
            if (now() == '[') {
                ++at_;
                if (!at_end() && now() == '[') ++at_;
                key(']');
                end_line();
            } else {
                key('=');
                if (!bad_) value(0);
            }
        }
        return bad_;
    }

private:
    bool at_end() const { return at_ >= text_.size(); }
    char now() const { return text_[at_]; }

    void skip_blank(bool with_lines) {
        for (; !at_end(); ++at_) {
            if (now() == '#') {
                while (!at_end() && now() != '\n') ++at_;
                if (at_end()) return;
            }
            const bool is_line = now() == '\n';
            if (is_line && !with_lines) return;
            line_ += is_line;
            if (!is_line && !is_blank(now())) return;
        }
    }
    void end_line() {
        bool in_comment = false;
        for (; !at_end() && now() != '\n'; ++at_) {
            in_comment |= now() == '#';
            if (!in_comment && static_cast<unsigned char>(now()) >= 0x80) return fail();
        }
    }

    void fail() {
        if (bad_) return;      // the first counts
        std::size_t size = 1;  // a whole UTF-8 sequence, for the message
        while (at_ + size < text_.size() && (static_cast<unsigned char>(text_[at_ + size]) & 0xC0U) == 0x80U) ++size;
        bad_ = BadKey{line_, at_end() || now() == '\n' ? "the end of the line" : std::string{text_.substr(at_, size)}};
    }

    /// Keys with points between, up to `end`, and past it.
    void key(char end) {
        for (;;) {
            skip_blank(false);
            if (at_end()) return fail();
            if (now() == '"' || now() == '\'') {
                text();
            } else {
                if (!is_bare(now())) return fail();
                while (!at_end() && is_bare(now())) ++at_;
            }
            skip_blank(false);
            if (at_end()) return;  // the reader reports what is missing
            if (now() == '.') {
                ++at_;
                continue;
            }
            if (now() != end && static_cast<unsigned char>(now()) >= 0x80) return fail();
            if (now() == end) ++at_;
            return;
        }
    }

    void text() {
        const char quote = now();
        const bool is_long = text_.substr(at_, 3) == std::string(3, quote);
        at_ += is_long ? 3 : 1;
        for (; !at_end(); ++at_) {
            if (now() == '\n') {
                if (!is_long) return;
                ++line_;
            }
            if (now() == '\\' && quote == '"') {
                ++at_;
                // The reader asks whether what follows is blank, line ends and all; of letters that are not ASCII it
                // may not ask that.
                const std::size_t escaped = at_;
                while (is_long && !at_end() && (is_blank(now()) || now() == '\n')) line_ += text_[at_++] == '\n';
                if (is_long && !at_end() && static_cast<unsigned char>(now()) >= 0x80) {
                    fail();
                    bad_->fault = BadKey::Fault::continuation;
                    return;
                }
                if (at_end() || at_ != escaped) --at_;  // what follows the blanks is looked at as ever
                if (!is_long && !at_end() && now() == '\n') ++line_;
                continue;
            }
            if (is_long ? text_.substr(at_, 3) == std::string(3, quote) : now() == quote) {
                at_ += is_long ? 3 : 1;
                return;
            }
        }
    }

    /// A value to the end of its line, or of its array or inline table.
    void value(unsigned depth) {
        if (depth > toml_depth) {
            fail();
            bad_->fault = BadKey::Fault::depth;
            return;
        }
        char open = 0;
        skip_blank(depth > 0);
        if (!at_end() && (now() == '[' || now() == '{')) open = text_[at_++];
        if (open == 0) {
            // A text stands at the beginning or not at all; otherwise quotation marks have no meaning.
            if (!at_end() && (now() == '"' || now() == '\'')) text();
            const auto ends = [&](char c) {
                return c == '\n' || c == '#' || (depth > 0 && (c == ',' || c == ']' || c == '}'));
            };
            for (; !at_end() && !ends(now()); ++at_)
                if (static_cast<unsigned char>(now()) >= 0x80) return fail();  // the reader takes it for a key
            return;
        }
        const char close = open == '[' ? ']' : '}';
        while (skip_blank(true), !at_end() && !bad_) {
            if (now() == close) {
                ++at_;
                return;
            }
            if (now() == ',') {
                ++at_;
                continue;
            }
            const std::size_t before = at_;
            if (open == '{') key('=');
            if (!bad_) value(depth + 1);
            if (at_ == before) ++at_;  // a character that belongs to no value: the reader reports it
        }
    }

    std::string_view text_;
    std::size_t at_ = 0;
    unsigned line_ = 1;
    std::optional<BadKey> bad_;
};

}  // namespace

std::optional<BadKey> find_bad_key(std::string_view text) { return Walk{text}.run(); }

}  // namespace cursorum
