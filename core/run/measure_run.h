#pragma once
/// The measurements of a chain, read on many pictures.
#include <filesystem>
#include <vector>

#include "files/picture.h"
#include "quality/uncertainty.h"

namespace fexel {

struct MeasureRunOptions {
  std::optional<int> station;  ///< where they are read; the result without it
  Limits limits = {};
};

/// One measurement on one frame.
struct MeasuredRow {
  int frame = 1;  ///< page of the file, from 1; of the whole sequence, where the chain has a step that aligns
  std::string name, kind;
  Reading reading;
  std::vector<Detail> sampled;  ///< what the pixels say
  std::optional<Quantity> expected;
};

struct MeasuredFile {
  std::filesystem::path input;
  std::vector<MeasuredRow> rows;
  std::optional<Error> failure;  ///< why it could not be read or measured
};

/// Reads every measurement of the chain on every page of every input, on all cores. A file that cannot be used carries
/// its failure. Raises a call error for a chain without measurements, for a station that it does not have, or for an
/// align step that has not been searched for as many frames.
std::vector<MeasuredFile> measure_files(const Chain& chain, const std::vector<std::filesystem::path>& inputs,
                                        const MeasureRunOptions& options, const Job& job);

/// One row each: input, frame, name, kind, value, unit, uncertainty, expected, error, problem; then a column for each
/// thing that is known beside a value, in the unit of the row, with "²" where it is an area.
std::string measurements_csv(const std::vector<MeasuredFile>& files);
/// The tables of parts of the inputs, in their order, as one: what measurements_csv() says of all inputs together.
/// Raises a call error for a text that is no such table; its place is the number of the table, from 1.
std::string joined_measurements(const std::vector<std::string>& tables);

}  // namespace fexel
