#include "core/bolt/bolt_node.h"

#include <algorithm>

#include "core/bolt/archive.h"
#include "core/bolt/manifest.h"
#include "core/graph/validate.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/recent_files.h"

namespace loom {
namespace {

constexpr int kMostBoltLevels = 8;

using DefinitionPtr = std::shared_ptr<const BoltDefinition>;

Error not_usable(const FileBytes& file, const Error& why) {
  return {file.name, (why.where.empty() ? "" : why.where + " ") + why.what, why.mend};
}

Error too_deep(const FileBytes& file) {
  return {file.name, "lies within other bolts more than 8 deep", "Use the inner ones directly"};
}

Result<DefinitionPtr> made_definition(const FileBytes& file, Unpacking& so_far) {
  if (so_far.depth >= kMostBoltLevels) return too_deep(file);
  auto entries = read_archive(file.name, *file.bytes);
  if (!entries) return entries.error();
  const std::size_t before = so_far.bytes;
  const auto text = entries->find("material.loom");
  const std::string sha256 = text == entries->end() ? std::string() : sha256_of(text->second);
  ++so_far.depth;
  so_far.levels = 0;
  auto bolt = unpacked(std::move(entries).value(), so_far);
  --so_far.depth;
  if (!bolt) return not_usable(file, bolt.error());
  const Material& m = bolt->material;
  if (const auto faults = validate(m, catalogue()); !faults.empty()) return not_usable(file, faults.front());
  auto made = std::make_shared<BoltDefinition>();
  made->levels = so_far.levels + 1;
  made->unpacked = so_far.bytes - before;
  made->reference = {m.imprint.id, m.imprint.version, sha256, {}};
  made->groups = definitions_of(m, made->reference, catalogue());
  for (const auto& [name, packed] : m.files->packed)
    made->files[is_of_bolt(name) ? name : file_of(made->reference, name)] = packed;
  return DefinitionPtr(made);
}

// Adds a definition with its files, which other states of the material must not see change.
void take(Material& m, const BoltDefinition& definition) {
  m.bolts.insert(definition.groups.begin(), definition.groups.end());
  if (definition.files.empty()) return;
  auto root = std::make_shared<FileRoot>(m.files ? *m.files : FileRoot{});
  root->packed.insert(definition.files.begin(), definition.files.end());
  m.files = std::move(root);
}

Result<DefinitionPtr> found(const Material& m, const std::string& name, Unpacking& so_far) {
  const auto file = find_file(m.files ? *m.files : FileRoot{}, name);
  return file ? definition_of(*file, so_far) : Result<DefinitionPtr>(file.error());
}

Error other_content(const BoltReference& wanted, const BoltReference& is) {
  return {wanted.file,
          "is '" + is.id + "' " + is.version + ", with other contents than '" + wanted.id + "' " + wanted.version +
              ", which was used",
          "Take it as the newer version, or put the old one back"};
}

}  // namespace

std::size_t BoltDefinition::bytes() const {
  std::size_t all = sizeof(*this);
  for (const auto& [name, file] : files) all += file.bytes->size();
  for (const auto& [key, group] : groups) all += sizeof(Group) + group->nodes.size() * (sizeof(Node) + 512);
  return all;
}

Result<DefinitionPtr> definition_of(const FileBytes& file, Unpacking& so_far) {
  static RecentFiles<BoltDefinition> all;
  const std::size_t before = so_far.bytes;
  auto definition = all.made(file.key, [&] { return made_definition(file, so_far); });
  if (!definition) return definition;
  // What was known already counts as if it were opened anew.
  so_far.bytes = before + (*definition)->unpacked;
  if (so_far.depth + (*definition)->levels > kMostBoltLevels) return too_deep(file);
  if (so_far.bytes > kMostUnpackedBytes)
    return Error{file.name, "unpacks to more than 512 MiB, with the bolts beside it", "Use fewer or smaller ones"};
  return definition;
}

std::vector<Error> take_bolts(Material& m, Unpacking& so_far) {
  std::vector<const BoltReference*> wanted;
  const auto nodes = m.nodes;
  const auto groups = m.groups;
  const auto look = [&](const std::vector<NodePtr>& all) {
    for (const NodePtr& n : all)
      if (n->bolt) wanted.push_back(&*n->bolt);
  };
  look(nodes);
  for (const auto& g : groups) look(g->nodes);
  std::vector<Error> missing;
  int levels = 0;
  for (const BoltReference* bolt : wanted) {
    if (m.bolts.count(bolt->key())) continue;
    const auto definition = found(m, bolt->file, so_far);
    if (!definition)
      missing.push_back(definition.error());
    else if ((*definition)->reference.sha256 != bolt->sha256)
      missing.push_back(other_content(*bolt, (*definition)->reference));
    else
      take(m, **definition), levels = std::max(levels, (*definition)->levels);
  }
  so_far.levels = levels;
  return missing;
}

std::vector<Error> take_bolts(Material& m) {
  Unpacking so_far;
  return take_bolts(m, so_far);
}

Result<BoltReference> take_bolt(Material& m, const std::string& file) {
  Unpacking so_far;
  const auto definition = found(m, file, so_far);
  if (!definition) return definition.error();
  take(m, **definition);
  BoltReference reference = (*definition)->reference;
  reference.file = file;
  return reference;
}

Result<BoltReference> reference_to(const std::filesystem::path& path) {
  const auto cover = read_cover(path);
  if (!cover) return cover.error();
  const Manifest& m = cover->manifest;
  const auto hash = m.sha256.find("material.loom");
  return BoltReference{m.imprint.id, m.imprint.version, hash == m.sha256.end() ? std::string() : hash->second,
                       path.string()};
}

std::optional<BoltReference> newer_version(const Material& m, const BoltReference& used) {
  const auto path = find_path(m.files ? *m.files : FileRoot{}, used.file);
  if (!path || path->empty()) return {};
  std::optional<BoltReference> newest;
  std::error_code failed;
  for (const auto& entry : std::filesystem::directory_iterator(path->parent_path(), failed)) {
    if (!is_bolt_file(entry.path().filename().string())) continue;
    const auto other = reference_to(entry.path());
    if (!other || other->id != used.id || other->sha256.empty() || other->sha256 == used.sha256) continue;
    const bool in_its_place = entry.path() == *path;
    if (!in_its_place && compare_versions(other->version, used.version) <= 0) continue;
    if (!newest || compare_versions(other->version, newest->version) > 0) newest = *other;
  }
  return newest;
}

bool is_bolt_file(const std::string& name) { return std::filesystem::path(name).extension() == ".bolt"; }
bool is_of_bolt(const std::string& name) { return name.rfind("bolt:", 0) == 0; }

}  // namespace loom
