# What `cmake --install` puts beside the programs, and `cpack -G DEB` makes of it: documents, manual pages, completion,
# and a Debian package whose dependencies are found from the libraries that the programs use.
set(manual ${CMAKE_BINARY_DIR}/manual)
add_custom_command(
  OUTPUT ${manual}/fexel-cli.1.gz ${manual}/fexel.1.gz ${manual}/fexel-cli ${manual}/changelog.gz ${manual}/NEWS.md.gz
  COMMAND ${CMAKE_COMMAND} -E make_directory ${manual}
  COMMAND fexel-cli manual page > ${manual}/fexel-cli.1
  COMMAND fexel-cli manual completion > ${manual}/fexel-cli
  COMMAND ${CMAKE_COMMAND} -E copy ${CMAKE_SOURCE_DIR}/data/man/fexel.1 ${manual}/fexel.1
  COMMAND ${CMAKE_COMMAND} -E copy ${CMAKE_SOURCE_DIR}/CHANGELOG.md ${manual}/NEWS.md
  COMMAND ${CMAKE_COMMAND} -E copy ${CMAKE_SOURCE_DIR}/data/debian-changelog ${manual}/changelog
  COMMAND gzip -9nf ${manual}/fexel-cli.1 ${manual}/fexel.1 ${manual}/changelog ${manual}/NEWS.md
  DEPENDS fexel-cli ${CMAKE_SOURCE_DIR}/data/debian-changelog ${CMAKE_SOURCE_DIR}/data/man/fexel.1 ${CMAKE_SOURCE_DIR}/CHANGELOG.md
  VERBATIM)
add_custom_target(manual ALL DEPENDS ${manual}/fexel-cli.1.gz)
install(FILES ${manual}/fexel-cli.1.gz ${manual}/fexel.1.gz DESTINATION ${CMAKE_INSTALL_MANDIR}/man1)
install(FILES ${manual}/fexel-cli DESTINATION ${CMAKE_INSTALL_DATADIR}/bash-completion/completions)
install(FILES ${manual}/changelog.gz ${manual}/NEWS.md.gz ${CMAKE_SOURCE_DIR}/data/copyright DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/fexel)
install(FILES ${CMAKE_SOURCE_DIR}/docs/guide.md ${CMAKE_SOURCE_DIR}/docs/cli.md ${CMAKE_SOURCE_DIR}/docs/chain.md
              ${CMAKE_SOURCE_DIR}/docs/cluster.md ${CMAKE_SOURCE_DIR}/docs/conventions.md ${CMAKE_SOURCE_DIR}/docs/formats.md
        DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/fexel)
foreach(size 16 32 48 64 128 256)
  install(FILES ${CMAKE_SOURCE_DIR}/data/icons/fexel-${size}.png RENAME fexel.png
          DESTINATION ${CMAKE_INSTALL_DATADIR}/icons/hicolor/${size}x${size}/apps)
endforeach()

set(CPACK_PACKAGE_NAME fexel)
set(CPACK_PACKAGE_CONTACT "The makers of Fexel <fexel@example.org>")
set(CPACK_PACKAGE_DESCRIPTION_SUMMARY "geometry for people who measure in pictures")
set(CPACK_PACKAGE_DESCRIPTION "Fexel rectifies, warps, aligns and measures pictures, stacks and films.
 All geometry is one chain of steps, resampled once from the original pixels,
 and every number says how well it is known.")
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_STRIP_FILES ON)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_PACKAGE_SECTION graphics)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_PACKAGE_DEPENDS "libqt6svg6, qt6-qpa-plugins, fonts-dejavu-core")
set(CPACK_DEBIAN_PACKAGE_RECOMMENDS "qt6-translations-l10n, xdg-utils")
set(CPACK_DEBIAN_PACKAGE_CONTROL_STRICT_PERMISSION ON)
set(CPACK_INSTALL_DEFAULT_DIRECTORY_PERMISSIONS OWNER_READ OWNER_WRITE OWNER_EXECUTE GROUP_READ GROUP_EXECUTE WORLD_READ WORLD_EXECUTE)
include(CPack)
