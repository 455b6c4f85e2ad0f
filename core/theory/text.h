#pragma once
/// Small, locale-free text helpers shared by the parsers of this room.

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace heft {

/// Without white space at either end.
std::string_view trimmed(std::string_view text);
/// ASCII lower case; other bytes unchanged.
std::string lowered(std::string_view text);
/// Typographic signs (sharp, flat, minus, no-break space) to their ASCII forms.
std::string plainSigns(std::string_view text);
/// Whether an ASCII digit, in any locale.
bool isDigit(char c);
/// A finite decimal number that fills the whole text; "nan", "inf", hex and trailing words are refused.
std::optional<double> parseNumber(std::string_view text);
/// Reads a number at the start of `text` and removes it; nullopt leaves `text` as it was.
std::optional<double> takeNumber(std::string_view& text);
/// Shortest decimal with at most `decimals` places, trailing zeros removed; "-0" is "0".
std::string formatNumber(double value, int decimals);
/// Decimal with exactly `decimals` places; never "-0".
std::string fixedNumber(double value, int decimals);

/// "kick, bass and backing".
std::string listed(const std::vector<std::string>& words);
/// The same where it is UTF-8; each byte that is not part of a character becomes '?'. For outside names,
/// which JSON could not hold raw.
std::string validUtf8(std::string text);
/// For one line of a terminal or a list: UTF-8 with control characters (C0, C1, DEL) and marks of writing
/// direction replaced by '?'.
std::string printable(std::string text);
/// A name for a file or folder from `text`: printable, without slashes, not hidden, at most `bytes` long
/// (callers leave room for an extension); never empty.
std::string fileNameOf(const std::string& text, size_t bytes);
/// At most `bytes` of UTF-8, never through the middle of a character.
std::string cutUtf8(std::string text, size_t bytes);

}  // namespace heft
