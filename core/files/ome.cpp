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

std::string ome_description(const std::vector<std::string>& names, Size size, Depth depth,
                            const std::optional<PixelSize>& pixel) {
  pugi::xml_document document;
  pugi::xml_node ome = document.append_child("OME");
  ome.append_attribute("xmlns") = "http://www.openmicroscopy.org/Schemas/OME/2016-06";
  pugi::xml_node image = ome.append_child("Image");
  image.append_attribute("ID") = "Image:0";
  pugi::xml_node pixels = image.append_child("Pixels");
  pixels.append_attribute("ID") = "Pixels:0";
  pixels.append_attribute("DimensionOrder") = "XYCZT";
  pixels.append_attribute("Type") = depth == Depth::u8 ? "uint8" : depth == Depth::u16 ? "uint16" : "float";
  pixels.append_attribute("SizeX") = size.width;
  pixels.append_attribute("SizeY") = size.height;
  pixels.append_attribute("SizeC") = static_cast<int>(names.size());
  pixels.append_attribute("SizeZ") = 1;
  pixels.append_attribute("SizeT") = 1;
  if (pixel) {
    const PixelSize mm = in_unit(*pixel, "mm");
    pixels.append_attribute("PhysicalSizeX") = fmt::format("{}", mm.x).c_str();
    pixels.append_attribute("PhysicalSizeXUnit") = "mm";
    pixels.append_attribute("PhysicalSizeY") = fmt::format("{}", mm.y).c_str();
    pixels.append_attribute("PhysicalSizeYUnit") = "mm";
  }
  for (std::size_t i = 0; i < names.size(); ++i) {
    pugi::xml_node channel = pixels.append_child("Channel");
    channel.append_attribute("ID") = ("Channel:0:" + std::to_string(i)).c_str();
    channel.append_attribute("Name") = names[i].c_str();
    channel.append_attribute("SamplesPerPixel") = 1;
  }
  for (std::size_t i = 0; i < names.size(); ++i) {
    pugi::xml_node data = pixels.append_child("TiffData");
    data.append_attribute("IFD") = static_cast<int>(i);
    data.append_attribute("FirstC") = static_cast<int>(i);
    data.append_attribute("PlaneCount") = 1;
  }
  std::ostringstream out;
  document.save(out, "", pugi::format_raw);
  return out.str();
}

}  // namespace fexel
