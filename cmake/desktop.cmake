# What makes it a program of its desktop, and its Debian package: see tools/package.
set(share ${CMAKE_INSTALL_DATADIR})
install(FILES packaging/wildloom.desktop DESTINATION ${share}/applications)
install(FILES packaging/wildloom.svg DESTINATION ${share}/icons/hicolor/scalable/apps)
install(FILES packaging/wildloom-mime.xml DESTINATION ${share}/mime/packages RENAME wildloom.xml)
install(FILES packaging/wildloom.thumbnailer DESTINATION ${share}/thumbnailers)
install(FILES packaging/wildloom.metainfo.xml DESTINATION ${share}/metainfo)

# Man pages and the changelog are compressed, the same bytes each time.
function(install_compressed from name destination)
  set(to ${CMAKE_BINARY_DIR}/packaging/${name}.gz)
  add_custom_command(OUTPUT ${to} COMMAND ${CMAKE_COMMAND} -E make_directory ${CMAKE_BINARY_DIR}/packaging
                     COMMAND gzip -9nc ${CMAKE_SOURCE_DIR}/${from} > ${to} DEPENDS ${CMAKE_SOURCE_DIR}/${from})
  add_custom_target(compressed_${name} ALL DEPENDS ${to})
  install(FILES ${to} DESTINATION ${destination})
endfunction()
install_compressed(packaging/wildloom.1 wildloom.1 ${share}/man/man1)
install_compressed(packaging/wildloom-cli.1 wildloom-cli.1 ${share}/man/man1)
install_compressed(packaging/changelog changelog ${share}/doc/wildloom)

# The licence of the typeface stands in full beside our own.
file(READ packaging/copyright copyright)
file(READ core/io/fonts/LICENCE-inter.txt typeface)
string(FIND "${typeface}" "\nLicense: OFL-1.1\n " at)
string(SUBSTRING "${typeface}" ${at} -1 typeface)
string(REGEX REPLACE "\n\n[A-Z].*" "\n" typeface "${typeface}")
file(WRITE ${CMAKE_BINARY_DIR}/packaging/copyright "${copyright}${typeface}")
install(FILES ${CMAKE_BINARY_DIR}/packaging/copyright DESTINATION ${share}/doc/wildloom)

set(CPACK_GENERATOR DEB)
set(CPACK_PACKAGE_NAME wildloom)
set(CPACK_PACKAGE_VERSION ${PROJECT_VERSION})
set(CPACK_PACKAGE_CONTACT "The authors of Wild Loom <wildloom@lantern-quay.example>")
set(CPACK_PACKAGE_DESCRIPTION_SUMMARY "tileable procedural textures and material utilities")
set(CPACK_PACKAGE_DESCRIPTION
    "Patterns, noise, masks and mathematics are woven into tileable textures
and shader graphs, and packaged as bolts: material utilities with dials
and presets that deliver physically based maps.")
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_PACKAGE_SECTION graphics)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS ON)
set(CPACK_STRIP_FILES ON)
include(CPack)
