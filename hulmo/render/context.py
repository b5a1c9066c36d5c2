"""OpenGL without a display."""

import moderngl

from hulmo.core.errors import HulmoError


def headless_context() -> moderngl.Context:
    """An OpenGL 3.3 context through EGL.

    Raises
    ------
    HulmoError
        No EGL or no OpenGL 3.3 on this machine.
    """
    try:
        context: moderngl.Context = moderngl.create_context(standalone=True, backend="egl", require=330)  # type: ignore[arg-type]
    except Exception as error:  # the backends raise bare Exceptions
        raise HulmoError(
            f"no OpenGL 3.3 without a display ({error}); install the EGL libraries of your graphics driver "
            "(Debian: libegl1 libgl1-mesa-dri)"
        ) from error
    return context


def is_software(context: moderngl.Context) -> bool:
    """Whether the context is drawn by the processor."""
    name = str(context.info.get("GL_RENDERER", "")).lower()
    return any(word in name for word in ("llvmpipe", "softpipe", "swrast", "software"))
