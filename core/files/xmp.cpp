#include "files/xmp.h"

#include <algorithm>
#include <pugixml.hpp>
#include <sstream>
#include <string_view>

namespace fexel::codec {
namespace {

constexpr std::string_view of_the_file[] = {"tiff:ImageWidth",
                                            "tiff:ImageLength",
                                            "tiff:Orientation",
                                            "tiff:XResolution",
                                            "tiff:YResolution",
                                            "tiff:ResolutionUnit",
                                            "tiff:BitsPerSample",
                                            "tiff:Compression",
                                            "tiff:SamplesPerPixel",
                                            "tiff:PhotometricInterpretation",
                                            "tiff:PlanarConfiguration",
                                            "exif:PixelXDimension",
                                            "exif:PixelYDimension",
                                            "exif:ColorSpace",
                                            "exif:SubjectArea",
                                            "xmp:Thumbnails",
                                            "xmpGImg:image"};

bool left_out(std::string_view name) {
  return std::ranges::find(of_the_file, name) != std::end(of_the_file);
}

void clean(pugi::xml_node node) {
  for (pugi::xml_attribute at = node.first_attribute(); at;) {
    const pugi::xml_attribute next = at.next_attribute();
    if (left_out(at.name())) node.remove_attribute(at);
    at = next;
  }
  for (pugi::xml_node child = node.first_child(); child;) {
    const pugi::xml_node next = child.next_sibling();
    if (left_out(child.name())) node.remove_child(child);
    child = next;
  }
}

}  // namespace

std::vector<unsigned char> carried_xmp(const std::vector<unsigned char>& packet) {
  if (packet.empty()) return {};
  pugi::xml_document document;
  if (!document.load_buffer(packet.data(), packet.size(), pugi::parse_default | pugi::parse_pi)) return {};
  const pugi::xml_node root = document.document_element();
  const pugi::xml_node rdf = std::string_view(root.name()) == "rdf:RDF" ? root : root.child("rdf:RDF");
  if (!rdf) return {};
  // Properties are attributes or children of descriptions.
  for (pugi::xml_node description : rdf.children()) clean(description);
  std::ostringstream out;
  document.save(out, "", pugi::format_raw | pugi::format_no_declaration);
  const std::string text = out.str();
  return {text.begin(), text.end()};
}

}  // namespace fexel::codec
