#pragma once
/// The library of styles: forty pictures of one paper look alike.
#include <filesystem>

#include "marks/style.h"

namespace fexel {

/// One file: {"fexel_style": 1, "style": {…}}. Raises a call error for one that is broken or from a newer version.
MarkStyle parse_style(const std::string& text);
/// A style in the library, or in a file. Raises a call error that names what there is.
MarkStyle style_named(const std::string& name_or_file);
/// The names in the library.
std::vector<std::string> styles_in_library();
/// Keeps a style by its name; one of that name is replaced.
void keep_style(const MarkStyle& style, const std::string& name);
void remove_style(const std::string& name);
/// The style that new marks begin with; without one the usual look.
std::optional<std::string> default_style();
void set_default_style(const std::string& name);

}  // namespace fexel
