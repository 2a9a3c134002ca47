// What the values of a graph come to: a value may hold a formula over others.
#pragma once
#include <map>
#include <string>
#include <vector>

#include "core/base/error.h"
#include "core/graph/material.h"

namespace loom {

struct WorkedValues {
  std::map<std::string, double> numbers;  ///< of all values that are numbers or formulas, by identifier
  std::vector<Error> faults;              ///< `where` is "value ID" and the character; a circle is told with its path
};

/// `held` is what each value holds; a formula there may name the others and what `outer` has. A value that is faulty is
/// left out.
WorkedValues work_out(const std::map<std::string, ParamValue>& held, const std::map<std::string, double>& outer);

/// Those of a graph by itself, where values of the document may stand around a group's.
WorkedValues work_out(const std::vector<Value>& values, const std::map<std::string, double>& outer = {});

}  // namespace loom
