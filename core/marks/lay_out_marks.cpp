#include "marks/lay_out_marks.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "marks/ground.h"

namespace fexel {
namespace {

constexpr double readable = 4.5;  // contrast of text to what lies beneath (W3C 2018)
constexpr double plate_alpha = 0.85;
constexpr Colour black{0, 0, 0, 1}, white{1, 1, 1, 1};

Rect grown(const Rect& box, double by) {
  return {box.x - by, box.y - by, box.width + 2 * by, box.height + 2 * by};
}
Rect around(std::span<const Point> points) {
  if (points.empty()) return {};
  const auto [left, right] = std::ranges::minmax(points, {}, &Point::x);
  const auto [top, bottom] = std::ranges::minmax(points, {}, &Point::y);
  return {left.x, top.y, right.x - left.x, bottom.y - top.y};
}
double shared_area(const Rect& a, const Rect& b) {
  const double w = std::min(a.x + a.width, b.x + b.width) - std::max(a.x, b.x),
               h = std::min(a.y + a.height, b.y + b.height) - std::max(a.y, b.y);
  return w > 0 && h > 0 ? w * h : 0;
}
std::vector<Point> corners_of(const Rect& box) {
  return {
      {box.x, box.y}, {box.x + box.width, box.y}, {box.x + box.width, box.y + box.height}, {box.x, box.y + box.height}};
}

struct LaidLine {
  std::string text;
  TextExtent extent;
};

/// What is drawn of one mark.
class Layouter {
 public:
  Layouter(const MarkInput& input, MarkDrawing& out) : in_(input), out_(out) {}

  void mark(const Mark& mark, const MarkStyle& common, std::size_t index) {
    look_ = look_of(common, mark.style);
    pt_ = pixels_per_point(look_, width());
    box_ = {};
    problem_.clear();
    std::visit([this](const auto& kind) { draw(kind); }, mark.kind);
    if (!problem_.empty()) box_ = {};
    out_.boxes[index] = box_;
    out_.problems[index] = problem_;
    if (box_.width > 0 && stands_at_place(mark.kind)) taken_.push_back(box_);
  }
  static bool stands_at_place(const MarkKind& kind) {
    return std::visit(
        [](const auto& k) {
          return requires {
            k.place;
          };
        },
        kind);
  }

 private:
  double width() const { return in_.size.width * in_.scale; }
  double height() const { return in_.size.height * in_.scale; }

  /// The ink for a box, and the plate behind it where one is needed.
  struct Ink {
    Colour colour;
    std::optional<Colour> plate;
  };
  Ink ink(const Rect& box) const {
    std::vector<double> under;
    if (in_.under && in_.under->width > 0)
      under = luminances(
          *in_.under, {box.x / in_.scale, box.y / in_.scale, box.width / in_.scale, box.height / in_.scale}, in_.size);
    Ink out;
    if (const auto set = colour_of(look_.colour))
      out.colour = *set;
    else
      out.colour = worst_contrast(1, under) > worst_contrast(0, under) ? white : black;
    const double own = luminance(out.colour);
    if (const auto set = colour_of(look_.backing)) {
      out.plate = *set;
    } else if (look_.backing == "auto" && worst_contrast(own, under) < readable) {
      out.plate = contrast_ratio(own, 1) > contrast_ratio(own, 0) ? white : black;
      out.plate->alpha = plate_alpha;
    }
    return out;
  }
  Colour halo_of(const Colour& ink) const {
    Colour halo = luminance(ink) > 0.18 ? black : white;
    halo.alpha = plate_alpha;
    return halo;
  }

  /// Where a block of this size stands; blocks at one place stand one behind the other, away from the side.
  Rect placed(const MarkPlace& place, double w, double h) {
    if (place.at) return {place.at->x * in_.scale - w / 2, place.at->y * in_.scale - h / 2, w, h};
    const double margin = look_.margin * pt_;
    double& used = used_[static_cast<std::size_t>(3 * place.row + place.column)];
    Rect box{place.column == 0   ? margin
             : place.column == 2 ? width() - margin - w
                                 : (width() - w) / 2,
             place.row == 0   ? margin + used
             : place.row == 2 ? height() - margin - used - h
                              : (height() - h) / 2 + used,
             w, h};
    // Clear of blocks at other places, where there is room for that.
    const double step = place.row == 2 ? -1 : 1;
    for (const Rect& other : taken_) {
      if (shared_area(box, other) == 0) continue;
      const double moved = step > 0 ? other.y + other.height + margin / 2 - box.y : box.y + h + margin / 2 - other.y;
      if (box.y + step * moved < 0 || box.y + step * moved + h > height()) continue;
      box.y += step * moved;
    }
    used += h + margin / 2;
    return box;
  }

  LaidLine laid(const std::string& text) const { return {text, text_extent(text, look_.font, look_.text_size * pt_)}; }
  double line_height() const {
    const TextExtent usual = text_extent("Mg", look_.font, look_.text_size * pt_);
    return usual.above + usual.below;
  }
  double text_above() const { return text_extent("Mg", look_.font, look_.text_size * pt_).above; }

  /// Lines of a text, broken between words where they are wider than `most`.
  std::vector<LaidLine> lines_of(const std::string& text, double most) const {
    std::vector<LaidLine> out;
    std::size_t begin = 0;
    while (begin <= text.size()) {
      const std::size_t end = std::min(text.find('\n', begin), text.size());
      std::string line;
      std::size_t at = begin;
      while (at < end) {
        const std::size_t space = std::min(text.find(' ', at), end);
        const std::string word = text.substr(at, space - at), longer = line.empty() ? word : line + ' ' + word;
        if (!line.empty() && laid(longer).extent.width > most) {
          out.push_back(laid(line));
          line = word;
        } else {
          line = longer;
        }
        at = space + 1;
      }
      out.push_back(laid(line));
      begin = end + 1;
    }
    return out;
  }

  void plate(const Rect& box, const Ink& ink) {
    if (ink.plate) out_.shapes.emplace_back(DrawnArea{corners_of(grown(box, 2 * pt_)), *ink.plate});
  }
  void text(Point base, const std::string& words, const Colour& colour) {
    out_.shapes.emplace_back(DrawnText{base, words, look_.font, look_.text_size * pt_, colour});
  }
  void line(std::vector<Point> points, bool closed, const Colour& colour) {
    const double thick = look_.line_width * pt_;
    if (look_.backing != "none")
      out_.shapes.emplace_back(DrawnLine{points, closed, thick + 1.2 * pt_, halo_of(colour)});
    out_.shapes.emplace_back(DrawnLine{std::move(points), closed, thick, colour});
  }
  void extend(const Rect& box) {
    if (box_.width == 0 && box_.height == 0) {
      box_ = box;
      return;
    }
    const double right = std::max(box_.x + box_.width, box.x + box.width),
                 bottom = std::max(box_.y + box_.height, box.y + box.height);
    box_.x = std::min(box_.x, box.x);
    box_.y = std::min(box_.y, box.y);
    box_.width = right - box_.x;
    box_.height = bottom - box_.y;
  }

  /// A block of lines in a box, to the side of the picture at which it stands.
  void block(const std::string& words, const MarkPlace& place) {
    const auto lines = lines_of(words, width() - 2 * look_.margin * pt_);
    double wide = 0;
    for (const LaidLine& one : lines) wide = std::max(wide, one.extent.width);
    const double step = line_height(), high = step * static_cast<double>(lines.size());
    if (wide > width() || high > height()) {
      problem_ = "The text is larger than the picture: choose smaller letters, fewer words, or a wider page.";
      return;
    }
    box_ = placed(place, wide, high);
    const Ink with = ink(box_);
    plate(box_, with);
    double y = box_.y + text_above();
    for (const LaidLine& one : lines) {
      const double room = wide - one.extent.width;
      text({box_.x + (place.at || place.column == 1 ? room / 2
                      : place.column == 2           ? room
                                                    : 0),
            y},
           one.text, with.colour);
      y += step;
    }
  }
  /// One line beside a box, inside of the picture, clear of what stands there already where that can be.
  void label(const Rect& by, const std::string& words) {
    if (words.empty()) return;
    const double w = laid(words).extent.width, high = line_height(), gap = 4 * pt_, x = by.x + (by.width - w) / 2,
                 y = by.y + (by.height - high) / 2, above = by.y - high - gap, below = by.y + by.height + gap,
                 left = by.x - w - gap, right = by.x + by.width + gap;
    Rect best;
    double least = 1e300;
    for (const Point at : {Point{x, above},
                           {x, below},
                           {right, y},
                           {left, y},
                           {right, above},
                           {left, above},
                           {right, below},
                           {left, below},
                           {x, above - high - gap},
                           {x, below + high + gap}}) {
      const Rect box{std::clamp(at.x, gap, std::max(gap, width() - gap - w)),
                     std::clamp(at.y, gap, std::max(gap, height() - gap - high)), w, high};
      double covered = shared_area(grown(box, 2 * pt_), by);
      for (const Rect& other : taken_) covered += shared_area(grown(box, 2 * pt_), other);
      if (covered >= least) continue;
      least = covered;
      best = box;
    }
    taken_.push_back(best);
    const Ink with = ink(best);
    plate(best, with);
    text({best.x, best.y + text_above()}, words, with.colour);
    extend(best);
  }

  void draw(const ScaleBarMark& bar) {
    if (!in_.pixel) {
      problem_ =
          "The scale bar needs a pixel size, and the result has none: give it one (the source's calibration, or a step "
          "that knows lengths), and rectify what is seen at an angle.";
      return;
    }
    const PixelSize& pixel = *in_.pixel;
    const bool across = bar.direction != ScaleBarMark::Direction::down,
               down = bar.direction != ScaleBarMark::Direction::across;
    const double side = across ? in_.size.width * pixel.x : in_.size.height * pixel.y;
    const RoundLength length = bar.length ? RoundLength{*bar.length, bar.unit} : round_length(side / 5, pixel.unit);
    const double in_pixel_unit = length.value * metres_per(length.unit) / metres_per(pixel.unit),
                 long_x = across ? in_pixel_unit / pixel.x * in_.scale : 0,
                 long_y = down ? in_pixel_unit / pixel.y * in_.scale : 0, margin = look_.margin * pt_;
    const std::string words = short_number(length.value, 6) + " " + unit_name(length.unit);
    if (long_x > width() - 2 * margin || long_y > height() - 2 * margin) {
      problem_ = fmt::format("A scale bar of {} does not fit into the picture, {} {} {}: give a shorter one.", words,
                             short_number(side, 4), unit_name(pixel.unit), across ? "wide" : "high");
      return;
    }
    if (std::max(long_x, long_y) < 4) {
      problem_ = fmt::format("A scale bar of {} is shorter than 4 px: give a longer one.", words);
      return;
    }
    const LaidLine said = laid(words);
    const double thick = look_.bar_thickness * pt_, gap = 1.5 * pt_, tick = 2.2 * thick,
                 text_high = bar.label ? line_height() : 0, text_wide = bar.label ? said.extent.width : 0;
    const bool ticks = look_.ends == "ticks";
    const double bar_high = ticks ? tick : thick;
    // Across: the words above the bar. Down: beside it. Both: an L, with the words in its corner.
    Rect box;
    if (across && !down)
      box = placed(bar.place, std::max(long_x, text_wide), bar_high + (bar.label ? text_high + gap : 0));
    else if (down && !across)
      box = placed(bar.place, bar_high + (bar.label ? text_wide + 2 * gap : 0), std::max(long_y, text_high));
    else
      box = placed(bar.place, std::max(long_x, bar_high + 2 * gap + text_wide),
                   std::max(long_y, bar_high + 2 * gap + text_high));
    box_ = box;
    const Ink with = ink(box);
    if (across != down) plate(box, with);
    std::vector<DrawnShape> pieces;
    const auto filled = [&](const Rect& r) { pieces.emplace_back(DrawnArea{corners_of(r), with.colour}); };
    const double bottom = box.y + box.height;
    if (across) {
      if (down) plate({box.x, bottom - bar_high, long_x, bar_high}, with);
      const double left = down ? box.x : box.x + (box.width - long_x) / 2,
                   top = bottom - (bar_high + thick) / 2 - (down ? (thick - bar_high) / 2 : 0);
      if (!down) filled({left, top, long_x, thick});
      if (ticks)
        for (const double x : {left, left + long_x - thick / 2}) filled({x, top + (thick - tick) / 2, thick / 2, tick});
    }
    if (down) {
      const double left = box.x + (across ? 0 : (bar_high - thick) / 2), top = bottom - long_y;
      if (across) plate({box.x, top, bar_high, long_y - bar_high - 4 * pt_}, with);
      if (!across) filled({left, top, thick, long_y});
      if (ticks)
        for (const double y : {top, bottom - thick / 2}) filled({left + (thick - tick) / 2, y, tick, thick / 2});
    }
    // Both are one shape, so that no pixel of the corner is covered twice.
    if (across && down)
      pieces.emplace_back(DrawnArea{{{box.x, bottom - long_y},
                                     {box.x + thick, bottom - long_y},
                                     {box.x + thick, bottom - thick},
                                     {box.x + long_x, bottom - thick},
                                     {box.x + long_x, bottom},
                                     {box.x, bottom}},
                                    with.colour});
    if (bar.label && across && down)
      plate({box.x + bar_high + 2 * gap, bottom - bar_high - 2 * gap - text_high, text_wide, text_high}, with);
    out_.shapes.insert(out_.shapes.end(), pieces.begin(), pieces.end());
    if (!bar.label) return;
    if (across && !down)
      text({box.x + (box.width - text_wide) / 2, box.y + text_above()}, words, with.colour);
    else if (!across)
      text({box.x + bar_high + 2 * gap, box.y + (box.height - text_high) / 2 + text_above()}, words, with.colour);
    else
      text({box.x + bar_high + 2 * gap, bottom - bar_high - 2 * gap - text_high + text_above()}, words, with.colour);
  }

  void draw(const TextMark& mark) {
    if (mark.text.empty()) {
      problem_ = "This text is empty: type one.";
      return;
    }
    block(mark.text, mark.place);
  }

  void draw(const TimeMark& mark) {
    const std::string frame = fmt::format("frame {}", in_.frame);
    if (!in_.time_step && mark.show == TimeMark::Show::time) {
      problem_ = "The time of a frame is not known: give the time step of the sequence, or show the frame's number.";
      return;
    }
    const std::string time =
        in_.time_step ? number_text((in_.frame - 1) * *in_.time_step, mark.decimals) + " " + unit_name(in_.time_unit)
                      : std::string();
    block(mark.show == TimeMark::Show::frame || time.empty() ? frame
          : mark.show == TimeMark::Show::time                ? time
                                                             : frame + ", " + time,
          mark.place);
  }

  /// The points in the copy; nothing where one is not seen in the result.
  std::optional<std::vector<Point>> in_copy(std::span<const Point> points, int station) {
    std::vector<Point> out;
    for (const Point p : points) {
      const auto at = station < 0 || !in_.carried ? std::optional(p) : in_.carried(p, station);
      if (!at) {
        problem_ = "A part of it is not seen in the result: move it.";
        return std::nullopt;
      }
      out.push_back(in_.scale * *at);
    }
    return out;
  }

  void draw(const ArrowMark& arrow) {
    const auto ends = in_copy(arrow.points, arrow.station);
    if (!ends) return;
    const Point tail = (*ends)[0], head = (*ends)[1];
    const double length = distance(tail, head);
    if (!(length > 0)) {
      problem_ = "Both ends of the arrow are the same point: move one.";
      return;
    }
    box_ = around(*ends);
    const Colour colour = ink(grown(box_, pt_)).colour;
    const Point along = (1 / length) * (head - tail), beside{-along.y, along.x};
    const double size = std::min(length, (3.5 + 3 * look_.line_width) * pt_);
    const Point foot = head - size * along;
    line({tail, head - 0.8 * size * along}, false, colour);
    const std::vector<Point> tip{head, foot + 0.4 * size * beside, foot - 0.4 * size * beside};
    if (look_.backing != "none") out_.shapes.emplace_back(DrawnLine{tip, true, 1.2 * pt_, halo_of(colour)});
    out_.shapes.emplace_back(DrawnArea{tip, colour});
    for (int i = 0; i <= 8; ++i) {
      const Point on = tail + i / 8.0 * (head - tail);
      taken_.push_back(grown({on.x, on.y, 0, 0}, std::max(pt_, length / 20)));
    }
    label(around(std::vector<Point>{tail, tail + std::min(length, 8 * pt_) * along}), arrow.text);
  }

  void draw(const OutlineMark& outline) {
    std::vector<Point> shape = outline.points;
    if (outline.shape != OutlineMark::Shape::polygon) {
      const Rect box = around(shape);
      constexpr int steps = 120;
      shape.clear();
      // Other stations may bend a side.
      for (int i = 0; i < steps; ++i) {
        const double turn = 2 * std::numbers::pi * i / steps, side = 4.0 * i / steps, part = side - std::floor(side);
        const Point unit[] = {{part, 0}, {1, part}, {1 - part, 1}, {0, 1 - part}};
        const Point p = outline.shape == OutlineMark::Shape::ellipse
                            ? Point{0.5 + 0.5 * std::cos(turn), 0.5 + 0.5 * std::sin(turn)}
                            : unit[static_cast<int>(side)];
        shape.push_back({box.x + p.x * box.width, box.y + p.y * box.height});
      }
    }
    const auto points = in_copy(shape, outline.station);
    if (!points) return;
    box_ = around(*points);
    if (!(box_.width > 0 || box_.height > 0)) {
      problem_ = "The outline has no size: draw it larger.";
      return;
    }
    line(*points, true, ink(grown(box_, pt_)).colour);
    label(box_, outline.text);
  }

  void draw(const InsetMark& inset) {
    const Rect part{inset.x, inset.y, inset.width, inset.height};
    if (part.x < 0 || part.y < 0 || part.x + part.width > in_.size.width || part.y + part.height > in_.size.height) {
      problem_ = fmt::format("The part that the inset shows lies outside of the picture, {} x {} px: move it.",
                             in_.size.width, in_.size.height);
      return;
    }
    const double w = part.width * inset.zoom * in_.scale, h = part.height * inset.zoom * in_.scale,
                 margin = look_.margin * pt_;
    if (w > width() - 2 * margin || h > height() - 2 * margin) {
      problem_ = "The inset is larger than the picture: choose a smaller part, or enlarge it less.";
      return;
    }
    const Rect box = placed(inset.place, w, h);
    const Rect seen{part.x * in_.scale, part.y * in_.scale, part.width * in_.scale, part.height * in_.scale};
    const Colour colour = ink(seen).colour;
    line(corners_of(seen), true, colour);
    if (in_.part)
      out_.shapes.emplace_back(DrawnPicture{box, in_.part(part, std::max(1, static_cast<int>(std::lround(w))),
                                                          std::max(1, static_cast<int>(std::lround(h))))});
    line(corners_of(box), true, ink(box).colour);
    box_ = box;
  }

  void draw(const MeasurementsMark& mark) {
    std::vector<std::string> missing = mark.names;
    bool any = false;
    std::vector<std::pair<Rect, std::string>> labels;  // above all lines
    for (const MarkedMeasurement& one : in_.measurements) {
      if (!mark.names.empty()) {
        if (std::ranges::find(mark.names, one.name) == mark.names.end()) continue;
        std::erase(missing, one.name);
      }
      if (one.parts.empty()) continue;
      any = true;
      std::vector<Point> all;
      for (const auto& part : one.parts)
        for (const Point p : part.points) all.push_back(in_.scale * p);
      const Rect box = around(all);
      const Colour colour = ink(grown(box, pt_)).colour;
      extend(box);
      auto next = all.begin();
      for (const auto& part : one.parts) {
        const std::vector<Point> points(next, next + static_cast<std::ptrdiff_t>(part.points.size()));
        next += static_cast<std::ptrdiff_t>(points.size());
        const double arm = 4 * pt_;
        if (points.size() > 1) {
          line(points, part.closed, colour);
        } else {
          line({points[0] - Point{arm, 0}, points[0] + Point{arm, 0}}, false, colour);
          line({points[0] - Point{0, arm}, points[0] + Point{0, arm}}, false, colour);
        }
      }
      if (mark.values) labels.emplace_back(box, one.text);
    }
    for (const auto& [box, words] : labels) label(box, words);
    if (!missing.empty())
      problem_ = fmt::format("There is no measurement \"{}\" that is seen in the result.", missing.front());
    else if (!any)
      problem_ = "No measurement is seen in the result: measure something first.";
  }

  const MarkInput& in_;
  MarkDrawing& out_;
  MarkLook look_;
  double pt_ = 1;
  Rect box_;
  std::string problem_;
  std::array<double, 9> used_{};
  std::vector<Rect> taken_;  // by blocks and labels
};

}  // namespace

MarkDrawing lay_out_marks(std::span<const Mark> marks, const MarkStyle& common, const MarkInput& input) {
  MarkDrawing out;
  out.boxes.resize(marks.size());
  out.problems.resize(marks.size());
  // Blocks have their places first, and labels keep clear of them; but they are drawn above all else.
  std::vector<DrawnShape> blocks;
  Layouter layouter(input, out);
  for (const bool at_place : {true, false}) {
    for (std::size_t i = 0; i < marks.size(); ++i)
      if (Layouter::stands_at_place(marks[i].kind) == at_place) layouter.mark(marks[i], common, i);
    if (at_place) blocks.swap(out.shapes);
  }
  std::ranges::move(blocks, std::back_inserter(out.shapes));
  return out;
}

}  // namespace fexel
