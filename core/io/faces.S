/* The faces that text is set in, as they ship with the application. */
        .section .rodata
        .macro face name, file
        .global loom_face_\name, loom_face_\name\()_end
        .balign 16
loom_face_\name:
        .incbin "\file"
loom_face_\name\()_end:
        .byte 0
        .endm
        face regular, "core/io/fonts/Inter-Regular.otf"
        face semibold, "core/io/fonts/Inter-SemiBold.otf"
        face bold, "core/io/fonts/Inter-Bold.otf"
        face mono, "core/io/fonts/JetBrainsMono-Regular.ttf"
        .section .note.GNU-stack,"",%progbits
