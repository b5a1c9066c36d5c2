"""What lies between four texels of eight channels, all channels at once."""

from typing import Any

from hulmo.core.kernel import part_in_instructions

CHANNELS = 8


@part_in_instructions
def add_four_texels(_, texels, k, m, n, o, a, b, c, d, out):  # type: ignore[no-untyped-def]
    """Add a T[k] + b T[m] + c T[n] + d T[o] to `out`, in single precision and in this order. For kernels.

    Parameters
    ----------
    texels : (T, 8) uint16
    k, m, n, o : int64
        Rows of it; it is not asked whether they are.
    a, b, c, d : float32
    out : (8,) float32
    """
    from llvmlite import ir
    from numba.core import types

    whole, single = types.int64, types.float32
    signature = types.void(texels, whole, whole, whole, whole, single, single, single, single, out)

    def written(context: Any, builder: Any, signature: Any, given: Any) -> Any:
        index = ir.IntType(64)
        sixteen, numbers = ir.VectorType(ir.IntType(16), CHANNELS), ir.VectorType(ir.FloatType(), CHANNELS)
        first, last = signature.args[0], signature.args[-1]
        data = context.make_array(first)(context, builder, given[0]).data
        place = builder.bitcast(context.make_array(last)(context, builder, given[-1]).data, numbers.as_pointer())
        nothing, every = ir.Constant(numbers, ir.Undefined), ir.Constant(ir.VectorType(ir.IntType(32), CHANNELS), None)
        total = None
        for row, share in zip(given[1:5], given[5:9], strict=True):
            at = builder.gep(data, [builder.mul(row, ir.Constant(index, CHANNELS))])
            texel = builder.uitofp(builder.load(builder.bitcast(at, sixteen.as_pointer()), align=2), numbers)
            one = builder.insert_element(nothing, share, ir.Constant(ir.IntType(32), 0))
            term = builder.fmul(texel, builder.shuffle_vector(one, nothing, every))
            total = term if total is None else builder.fadd(total, term)
        builder.store(builder.fadd(builder.load(place, align=4), total), place, align=4)
        return context.get_dummy_value()

    return signature, written
