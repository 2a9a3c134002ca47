// The frame of a MaterialX document: one node graph that gives slots, and what takes them: shading nodes, materials and
// looks of three shading models. Source: MaterialX specification 1.39 and its physically based shading nodes; the
// inputs' names are those of the 1.39.4 data library.
#pragma once
#include <array>
#include <map>
#include <pugixml.hpp>
#include <string>
#include <string_view>

#include "core/graph/material.h"

namespace loom::mtlx {

/// Elements of a graph. `type` is one of the standard's: float, color3, vector3 and so on.
pugi::xml_node add_node(pugi::xml_node in, const std::string& kind, const std::string& name, const std::string& type);
pugi::xml_node add_input(pugi::xml_node of, const char* name, const std::string& type);
void add_value(pugi::xml_node of, const char* name, const std::string& type, const std::string& value);
void add_from(pugi::xml_node of, const char* name, const std::string& type, const std::string& node);

/// As many numbers as a type has, with all the digits that tell one float from the next.
std::string text_of(const std::array<float, 3>& v, std::string_view type);

class Frame {
 public:
  /// `what`: how its graph is called before the material's name, as "maps".
  Frame(const Material& material, const std::string& what);
  pugi::xml_node graph() { return graph_; }
  /// A node of the graph gives a slot, as float, color3 or (of a normal in world space) vector3.
  void give(const std::string& slot, const std::string& type, const std::string& node);
  bool gives(const std::string& slot) const { return outputs_.count(slot) != 0; }
  /// The document, its surfaces added, without the nodes that lead to no slot.
  std::string text();

 private:
  struct Goes;
  struct Surface;
  static const std::vector<Surface>& surfaces();
  void drop_unread();
  void from_graph(pugi::xml_node shader, const Goes& g);
  bool is_said(const std::string& slot) const;
  void add_surface(const Surface& s);
  std::string relief();

  const Material& m_;
  std::string name_;
  pugi::xml_document xml_;
  pugi::xml_node root_, graph_;
  std::map<std::string, std::string> outputs_;  // their types
};

}  // namespace loom::mtlx
