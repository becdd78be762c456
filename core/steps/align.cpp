#include "steps/align.h"

#include <fmt/format.h>

#include <charconv>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {

AlignReference reference_from(const std::string& text) {
  const auto colon = text.find(':');
  const std::string word = text.substr(0, colon), rest = colon == std::string::npos ? "" : text.substr(colon + 1);
  AlignReference out;
  const auto number = [&] {
    const auto [end, code] = std::from_chars(rest.data(), rest.data() + rest.size(), out.number);
    if (code != std::errc() || end != rest.data() + rest.size() || out.number < 1)
      throw call_error(fmt::format("\"{}\" is not a number of frames.", rest), "/against",
                       "Give a whole number from 1, such as average:4 or frame:7.");
  };
  if (text == "first") return out;
  if (text == "neighbour") {
    out.mode = ReferenceMode::neighbour;
  } else if (text == "network") {
    out.mode = ReferenceMode::network;
  } else if (word == "average") {
    out.mode = ReferenceMode::average;
    if (colon != std::string::npos) number();
  } else if (word == "frame" && colon != std::string::npos) {
    out.mode = ReferenceMode::frame;
    number();
  } else if (word == "file" && !rest.empty()) {
    out.mode = ReferenceMode::picture;
    out.path = rest;
  } else {
    throw call_error(fmt::format("\"{}\" is nothing to align against.", text), "/against",
                     "Use first, neighbour, average, average:N, frame:N, file:PATH or network.");
  }
  return out;
}

std::string text_of_reference(const AlignReference& reference) {
  switch (reference.mode) {
    case ReferenceMode::first:
      return "first";
    case ReferenceMode::neighbour:
      return "neighbour";
    case ReferenceMode::average:
      return reference.number > 0 ? fmt::format("average:{}", reference.number) : "average";
    case ReferenceMode::frame:
      return fmt::format("frame:{}", reference.number);
    case ReferenceMode::picture:
      return "file:" + reference.path;
    case ReferenceMode::network:
      return "network";
  }
  return {};
}

StepGeometry geometry_of(const AlignStep& step, const StepInput& input) {
  StepGeometry out{
      {step.width.value_or(input.size.width), step.height.value_or(input.size.height)}, input.pixel, Map()};
  if (step.frames.empty()) return out;
  const FoundFrame& frame =
      step.frames[std::min(static_cast<std::size_t>(std::max(input.frame, 0)), step.frames.size() - 1)];
  if (frame.status != MatchStatus::failed) out.map = Map(frame.matrix);
  return out;
}

void read_step(JsonReader& in, AlignStep& step) {
  if (in.has("model"))
    step.model = *model_named(in.choice("model", {"translation", "rigid", "similarity", "affine", "projective"}));
  if (in.has("against")) {
    try {
      step.against = reference_from(in.text("against"));
    } catch (const Error& error) {
      throw error.at(in.path("against"));
    }
  }
  if (in.has("band")) step.band = in.whole("band", 0, 4096);
  const int side = static_cast<int>(largest_side);
  if (in.has("region")) {
    const Json& r = in.array("region");
    const auto whole = [&](std::size_t i, int least) {
      if (!r[i].is_number_integer() || r[i].get<std::int64_t>() < least || r[i].get<std::int64_t>() > side)
        JsonReader::refuse(r, in.path("region"), "x, y, width and height in whole pixels");
      return r[i].get<int>();
    };
    if (r.size() != 4) JsonReader::refuse(r, in.path("region"), "x, y, width and height in whole pixels");
    step.region = Region{whole(0, 0), whole(1, 0), whole(2, 1), whole(3, 1)};
  }
  if (in.has("alike"))
    step.alike = in.choice("alike", {"brightness", "edges"}) == "edges" ? SimilarityMetric::structure
                                                                        : SimilarityMetric::brightness;
  if (in.has("width")) step.width = in.whole("width", 1, side);
  if (in.has("height")) step.height = in.whole("height", 1, side);
  if (!in.has("frames")) return;
  const Json& frames = in.array("frames");
  for (std::size_t i = 0; i < frames.size(); ++i) {
    const std::string path = fmt::format("{}/{}", in.path("frames"), i);
    JsonReader one(frames[i], path, {"matrix", "score", "uncertainty_px", "status", "reason", "by_hand"});
    FoundFrame frame;
    frame.matrix = read_matrix(one, "matrix");
    try {
      const Map usable(frame.matrix);
    } catch (const Error& error) {
      throw error.at(one.path("matrix"));
    }
    if (one.has("score")) frame.score = one.number("score", -1.001, 1.001);
    if (one.has("uncertainty_px")) frame.uncertainty_px = one.number("uncertainty_px", 0, 1e6);
    frame.status = MatchStatus::ok;
    if (one.has("status")) frame.status = match_status_named(one.choice("status", match_status_names()));
    if (one.has("reason")) frame.reason = one.text("reason");
    if (one.has("by_hand")) frame.by_hand = one.truth("by_hand");
    step.frames.push_back(frame);
  }
}

void write_step(Json& out, const AlignStep& step) {
  out["model"] = name_of(step.model);
  out["against"] = text_of_reference(step.against);
  if (step.band > 0) out["band"] = step.band;
  if (step.region) out["region"] = {step.region->x, step.region->y, step.region->width, step.region->height};
  if (step.alike == SimilarityMetric::structure) out["alike"] = "edges";
  if (step.width) out["width"] = *step.width;
  if (step.height) out["height"] = *step.height;
  if (step.frames.empty()) return;
  out["frames"] = Json::array();
  for (const FoundFrame& frame : step.frames) {
    Json one{{"matrix", rows_of(frame.matrix)},
             {"score", frame.score},
             {"uncertainty_px", frame.uncertainty_px},
             {"status", name_of(frame.status)}};
    if (!frame.reason.empty()) one["reason"] = frame.reason;
    if (frame.by_hand) one["by_hand"] = true;
    out["frames"].push_back(one);
  }
}

}  // namespace fexel
