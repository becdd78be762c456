#include "files/ome.h"

#include <fmt/format.h>

#include <pugixml.hpp>
#include <sstream>

namespace fexel {

std::vector<std::string> ome_page_names(const std::string& description) {
  constexpr std::size_t longest = 1 << 20;
  if (description.size() > longest || description.find("<OME") == std::string::npos) return {};
  pugi::xml_document document;
  if (!document.load_buffer(description.data(), description.size())) return {};
  const pugi::xml_node pixels = document.child("OME").child("Image").child("Pixels");
  if (pixels.attribute("SizeZ").as_int(1) != 1 || pixels.attribute("SizeT").as_int(1) != 1) return {};
  std::vector<std::string> names;
  for (const pugi::xml_node channel : pixels.children("Channel")) {
    if (channel.attribute("SamplesPerPixel").as_int(1) != 1) return {};
    names.emplace_back(channel.attribute("Name").as_string(""));
  }
  return static_cast<int>(names.size()) == pixels.attribute("SizeC").as_int(1) ? names : std::vector<std::string>{};
}

namespace {

/// Millimetres, or seconds, in a unit as the schema writes it; nothing for one that is of neither.
std::optional<double> millimetres_in(const std::string& unit) {
  if (unit.empty() || unit == "µm" || unit == "\xce\xbcm" || unit == "um") return 1e-3;
  if (unit == "nm") return 1e-6;
  if (unit == "pm") return 1e-9;
  if (unit == "\xc3\x85" || unit == "\xe2\x84\xab") return 1e-7;
  if (unit == "mm") return 1;
  if (unit == "cm") return 10;
  if (unit == "m") return 1000;
  if (unit == "in") return 25.4;
  return std::nullopt;
}
std::optional<double> seconds_in(const std::string& unit) {
  if (unit.empty() || unit == "s") return 1;
  if (unit == "ms") return 1e-3;
  if (unit == "µs" || unit == "\xce\xbcs") return 1e-6;
  if (unit == "ns") return 1e-9;
  if (unit == "min") return 60;
  if (unit == "h") return 3600;
  if (unit == "d") return 86400;
  return std::nullopt;
}

template <class InUnit>
std::optional<double> length_of(const pugi::xml_node& pixels, const std::string& name, InUnit in_unit) {
  const auto value = number_in(pixels.attribute(name.c_str()).as_string(""));
  const auto unit = in_unit(pixels.attribute((name + "Unit").c_str()).as_string(""));
  if (!value || !unit || !std::isfinite(*value) || *value <= 0 || *value > 1e9) return std::nullopt;
  return *value * *unit;
}

}  // namespace

std::optional<OmeStack> ome_stack(const std::string& description, int pages, const std::string& name) {
  constexpr std::size_t longest = 256 << 20;
  if (description.size() > longest || description.find("<OME") == std::string::npos) return std::nullopt;
  pugi::xml_document document;
  if (!document.load_buffer(description.data(), description.size())) return std::nullopt;
  const pugi::xml_node pixels = document.child("OME").child("Image").child("Pixels");
  OmeStack out;
  StackAxes& axes = out.axes;
  axes.channels = pixels.attribute("SizeC").as_int(1);
  axes.planes = pixels.attribute("SizeZ").as_int(1);
  axes.times = pixels.attribute("SizeT").as_int(1);
  int samples = 1;
  for (const pugi::xml_node channel : pixels.children("Channel")) {
    samples = std::max(samples, channel.attribute("SamplesPerPixel").as_int(1));
    axes.channel_names.emplace_back(channel.attribute("Name").as_string(""));
  }
  // A channel of several samples is a page of several bands.
  if (samples > 1 && axes.channels % samples == 0) axes.channels /= samples;
  if (axes.channels < 1 || axes.planes < 1 || axes.times < 1 ||
      static_cast<double>(axes.channels) * axes.planes * axes.times > 4e6)
    return std::nullopt;
  if (static_cast<int>(axes.channel_names.size()) != axes.channels) axes.channel_names.clear();
  const int count = axes.channels * axes.planes * axes.times;
  const std::string order = pixels.attribute("DimensionOrder").as_string("XYCZT");
  if (order.size() != 5 || order.find('C') == std::string::npos || order.find('Z') == std::string::npos ||
      order.find('T') == std::string::npos)
    return std::nullopt;
  /// The place that is `further` behind another in the order of the planes.
  const auto behind = [&](StackPlace place, int further) -> std::optional<StackPlace> {
    int rest = further;
    for (std::size_t i = 2; i < 5; ++i) {
      int& at = order[i] == 'C' ? place.channel : order[i] == 'Z' ? place.plane : place.time;
      const int size = order[i] == 'C' ? axes.channels : order[i] == 'Z' ? axes.planes : axes.times;
      const int sum = at + rest;
      at = sum % size;
      rest = sum / size;
    }
    if (rest > 0) return std::nullopt;
    return place;
  };
  out.places.resize(static_cast<std::size_t>(pages));
  bool told = false;
  for (const pugi::xml_node data : pixels.children("TiffData")) {
    told = true;
    const std::string file = data.child("UUID").attribute("FileName").as_string("");
    if (!file.empty() && file != name) continue;
    const StackPlace first{data.attribute("FirstC").as_int(0), data.attribute("FirstZ").as_int(0),
                           data.attribute("FirstT").as_int(0)};
    if (first.channel < 0 || first.channel >= axes.channels || first.plane < 0 || first.plane >= axes.planes ||
        first.time < 0 || first.time >= axes.times)
      return std::nullopt;
    const int directory = data.attribute("IFD").as_int(0);
    const bool one = !data.attribute("IFD").empty() && data.attribute("PlaneCount").empty();
    const int planes = one ? 1 : std::min(data.attribute("PlaneCount").as_int(count), count);
    for (int k = 0; k < planes; ++k) {
      const auto place = behind(first, k);
      if (!place) break;
      if (directory < 0 || directory + k >= pages) return std::nullopt;
      out.places[static_cast<std::size_t>(directory + k)] = place;
    }
  }
  if (!told) {
    if (count != pages) return std::nullopt;
    for (int k = 0; k < count; ++k) out.places[static_cast<std::size_t>(k)] = behind({}, k);
  }
  if (std::ranges::none_of(out.places, [](const auto& place) { return place.has_value(); })) return std::nullopt;
  const auto x = length_of(pixels, "PhysicalSizeX", millimetres_in),
             y = length_of(pixels, "PhysicalSizeY", millimetres_in);
  if (x && y) {
    const bool fine = std::max(*x, *y) < 0.1;
    out.pixel = in_unit({*x, *y, "mm"}, fine ? "um" : "mm");
  }
  axes.plane_step = length_of(pixels, "PhysicalSizeZ", millimetres_in);
  axes.time_step = length_of(pixels, "TimeIncrement", seconds_in);
  return out;
}

bool describes_file(const std::string& description) {
  return description.find("<OME") != std::string::npos || description.starts_with("images=") ||
         description.find("\nimages=") != std::string::npos;
}

void put_ome(const OmeStack& stack, int page, FileInfo& info) {
  info.axes = stack.axes;
  info.place = stack.places[static_cast<std::size_t>(page) - 1];
  if (stack.pixel) {
    info.pixel_size = stack.pixel;
    info.density.reset();
  }
  if (stack.axes.time_step && info.place) info.time = *stack.axes.time_step * info.place->time;
}

std::string ome_description(const std::vector<std::string>& names, Size size, Depth depth,
                            const std::optional<PixelSize>& pixel) {
  StackAxes axes;
  axes.channels = static_cast<int>(names.size());
  axes.channel_names = names;
  std::vector<StackPlace> places;
  for (int i = 0; i < axes.channels; ++i) places.push_back({i, 0, 0});
  return ome_description(axes, places, size, depth, pixel);
}

std::string ome_description(const StackAxes& axes, const std::vector<StackPlace>& places, Size size, Depth depth,
                            const std::optional<PixelSize>& pixel) {
  pugi::xml_document document;
  pugi::xml_node ome = document.append_child("OME");
  ome.append_attribute("xmlns") = "http://www.openmicroscopy.org/Schemas/OME/2016-06";
  pugi::xml_node image = ome.append_child("Image");
  image.append_attribute("ID") = "Image:0";
  pugi::xml_node pixels = image.append_child("Pixels");
  const auto say = [](pugi::xml_node& node, const char* name, const auto& value) {
    node.append_attribute(name) = value;
  };
  const auto length = [&](const char* name, double value, const char* unit) {
    say(pixels, name, fmt::format("{}", value).c_str());
    say(pixels, (std::string(name) + "Unit").c_str(), unit);
  };
  say(pixels, "ID", "Pixels:0");
  say(pixels, "DimensionOrder", "XYCZT");
  say(pixels, "Type", depth == Depth::u8 ? "uint8" : depth == Depth::u16 ? "uint16" : "float");
  say(pixels, "SizeX", size.width);
  say(pixels, "SizeY", size.height);
  say(pixels, "SizeC", axes.channels);
  say(pixels, "SizeZ", axes.planes);
  say(pixels, "SizeT", axes.times);
  if (pixel) {
    const PixelSize mm = in_unit(*pixel, "mm");
    const bool fine = std::max(mm.x, mm.y) < 0.1;
    const PixelSize shown = fine ? in_unit(*pixel, "um") : mm;
    length("PhysicalSizeX", shown.x, fine ? "\xc2\xb5m" : "mm");
    length("PhysicalSizeY", shown.y, fine ? "\xc2\xb5m" : "mm");
  }
  if (axes.plane_step) length("PhysicalSizeZ", *axes.plane_step, "mm");
  if (axes.time_step) length("TimeIncrement", *axes.time_step, "s");
  for (int i = 0; i < axes.channels; ++i) {
    pugi::xml_node channel = pixels.append_child("Channel");
    say(channel, "ID", fmt::format("Channel:0:{}", i).c_str());
    if (static_cast<std::size_t>(i) < axes.channel_names.size())
      say(channel, "Name", axes.channel_names[static_cast<std::size_t>(i)].c_str());
    say(channel, "SamplesPerPixel", 1);
  }
  for (std::size_t i = 0; i < places.size(); ++i) {
    pugi::xml_node data = pixels.append_child("TiffData");
    say(data, "IFD", static_cast<int>(i));
    say(data, "FirstC", places[i].channel);
    if (axes.planes > 1) say(data, "FirstZ", places[i].plane);
    if (axes.times > 1) say(data, "FirstT", places[i].time);
    say(data, "PlaneCount", 1);
  }
  std::ostringstream out;
  document.save(out, "", pugi::format_raw);
  return out.str();
}

}  // namespace fexel
