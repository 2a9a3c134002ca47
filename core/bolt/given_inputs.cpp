#include "core/bolt/given_inputs.h"

#include <algorithm>
#include <sstream>

#include "core/graph/disc.h"
#include "core/graph/edit.h"
#include "core/graph/inputs.h"
#include "core/io/image.h"

namespace loom {
namespace {

Kind kind_of_input(const Node& input) { return kind_from_name(input_of(input).kind); }

const Node* named_input(const Material& m, const std::string& name) {
  for (const NodePtr& n : m.nodes)
    if (n->type == kComesIn && (n->id == name || n->name == name)) return n.get();
  return nullptr;
}

Error no_such_input(const Material& m, const std::string& name) {
  std::string all;
  for (const NodePtr& n : m.nodes)
    if (n->type == kComesIn) all += (all.empty() ? "" : ", ") + n->id;
  return {"input " + name, "is not there", all.empty() ? "This material asks for nothing" : "It has " + all};
}

// Numbers with commas or blanks between them, and nothing else; empty where it is no such text.
Vector numbers_in(std::string text) {
  std::replace(text.begin(), text.end(), ',', ' ');
  std::istringstream in(text);
  Vector all;
  for (double x; in >> x;) all.push_back(x);
  return in.eof() ? all : Vector{};
}

std::size_t numbers_of(std::string_view parameter) { return parameter == "number" ? 1 : parameter == "pair" ? 2 : 3; }

// Under which the bytes are kept: another picture of that name keeps its own.
std::string kept_as(const FileRoot& root, const std::filesystem::path& file, const FileBytes& bytes) {
  std::string name = "files/" + file.filename().string();
  for (int n = 2; root.packed.count(name) && !(root.packed.at(name).key == bytes.key); ++n)
    name = "files/" + file.stem().string() + "-" + std::to_string(n) + file.extension().string();
  return name;
}

}  // namespace

bool can_be_given(const Node& input) {
  const Kind kind = kind_of_input(input);
  return kind != Kind::regions && kind != Kind::set;
}

Result<Material> with_input_picture(Material m, const std::string& input, const std::filesystem::path& file) {
  const Node* n = named_input(m, input);
  if (!n) return no_such_input(m, input);
  if (!can_be_given(*n))
    return Error{"input " + input, "takes no picture", "Use the bolt as a node of a material, and connect it there"};
  auto bytes = read_file(file, kMostFileBytes);
  if (!bytes) return bytes.error();
  FileBytes read = bytes_of(file.filename().string(), std::move(bytes).value());
  if (const auto picture = decode_image(read.name, *read.bytes); !picture) return picture.error();
  auto root = std::make_shared<FileRoot>(m.files ? *m.files : FileRoot{});
  read.name = kept_as(*root, file, read);
  root->packed[read.name] = read;
  m.files = std::move(root);
  const std::string id = n->id;
  m = edit::set_param(std::move(m), id, "stands_in", std::string(kStandsPicture));
  return edit::set_param(std::move(m), id, "file", read.name);
}

Result<Material> with_input(const Material& m, const std::string& input, const std::string& text) {
  const Node* n = named_input(m, input);
  if (!n) return no_such_input(m, input);
  const Vector numbers = numbers_in(text);
  const char* param = typed_parameter(input_of(*n));
  if (numbers.empty() || !param) return with_input_picture(m, n->id, text);
  const std::size_t count = numbers_of(param);
  if (numbers.size() != count)
    return Error{"input " + input, "takes " + std::to_string(count) + (count == 1 ? " number" : " numbers"),
                 "Write them with commas between, or the path of a picture"};
  const Material typed = edit::set_param(m, n->id, "stands_in", std::string(kStandsTyped));
  return edit::set_param(typed, n->id, param, count == 1 ? ParamValue(numbers[0]) : ParamValue(numbers));
}

}  // namespace loom
