"""What the workers of a graphics load run, on any graphics chip that WebGPU reaches: arithmetic, memory, drawing.

Each block of work is waited for until the chip has done it, and only then counted. Run as a program, `python -m
samovar.bench.loads.graphics BYTES`, it says as JSON which chip would be taken, or why none can: a driver that fails takes
that process with it, and nothing else.
"""

from __future__ import annotations

import json
import os
import sys
import time
from collections.abc import Callable, Iterator
from typing import Any

CHOSEN = "SAMOVAR_GRAPHICS"
"""The environment's word for the chip that is wanted: a part of its name."""
BLOCK_S = 0.03
"""A block of work takes about this long: short enough to be paused and ended by, long enough to cost nothing beside it."""
MOST_ROUNDS = 1 << 16
UNIT_FLOP = 1e8
ELEMENTS = 1 << 16
STEPS = 128
STREAM_BYTES = 64 << 20
WIDTH, HEIGHT = 1920, 1080
_KINDS = {"DiscreteGPU": 0, "IntegratedGPU": 1, "VirtualGPU": 2, "CPU": 3}
_ARITHMETIC = f"""
@group(0) @binding(0) var<storage, read_write> data: array<vec4<f32>>;
@compute @workgroup_size(64)
fn main(@builtin(global_invocation_id) id: vec3<u32>) {{
  var a = data[id.x];
  var b = a * 0.5 + vec4<f32>(0.1);
  for (var k = 0u; k < {STEPS}u; k++) {{
    a = fma(a, vec4<f32>(0.999), b);
    b = fma(b, vec4<f32>(0.998), -a);
  }}
  data[id.x] = clamp(a + b, vec4<f32>(-1.0), vec4<f32>(1.0));
}}
"""
_MEMORY = """
@group(0) @binding(0) var<storage, read> from_: array<vec4<f32>>;
@group(0) @binding(1) var<storage, read_write> to: array<vec4<f32>>;
@compute @workgroup_size(256)
fn main(@builtin(global_invocation_id) id: vec3<u32>, @builtin(num_workgroups) groups: vec3<u32>) {
  let count = arrayLength(&to);
  let stride = groups.x * 256u;
  for (var k = id.x; k < count; k += stride) { to[k] = from_[k] * 1.0001 + to[k] * 0.5; }
}
"""
_DRAWING = """
@vertex fn corner(@builtin(vertex_index) k: u32) -> @builtin(position) vec4<f32> {
  return vec4<f32>(f32(k & 1u) * 4.0 - 1.0, f32(k >> 1u) * 4.0 - 1.0, 0.0, 1.0);
}
@fragment fn shade(@builtin(position) at: vec4<f32>) -> @location(0) vec4<f32> {
  var p = at.xy * 0.01;
  var colour = vec3<f32>(0.0);
  for (var k = 0u; k < 12u; k++) {
    p = vec2<f32>(sin(p.y) + p.x * 0.7, cos(p.x) - p.y * 0.6);
    colour += abs(vec3<f32>(p, p.x * p.y)) * 0.08;
  }
  return vec4<f32>(fract(colour), 0.25);
}
"""


class NoChip(Exception):
    """There is no graphics chip to be had; the text says why, and what to do."""


def _device() -> tuple[Any, Any]:
    """The chip that is wanted, else the strongest kind there is, and a device on it. Raises NoChip."""
    try:
        import wgpu
    except ImportError:
        raise NoChip("graphics loads need a package that is not here: install samovar[graphics]") from None
    found = wgpu.gpu.enumerate_adapters_sync()
    wanted = os.environ.get(CHOSEN, "").lower()
    fitting = [one for one in found if wanted in str(one.info["device"]).lower()]
    if not fitting:
        there = ", ".join(sorted({str(one.info["device"]) for one in found})) or "none"
        words = (
            f"no graphics chip is called {wanted!r}"
            if wanted and found
            else "no graphics chip can be reached"
        )
        raise NoChip(f"{words}; there is {there}: see that its Vulkan driver is installed")
    # An older interface to the same chip is the second choice.
    best = min(
        fitting,
        key=lambda one: (_KINDS.get(one.info["adapter_type"], 4), one.info["backend_type"] == "OpenGL"),
    )
    return wgpu, best


class _Chip:
    """A device, what is bound to it, and the wait for what it does."""

    def __init__(self, size: int) -> None:
        self.wgpu, adapter = _device()
        self.name = str(adapter.info["device"])
        self.device = adapter.request_device_sync()
        self.size = size
        usage = self.wgpu.BufferUsage
        self.mark = self.device.create_buffer(size=16, usage=usage.COPY_DST | usage.COPY_SRC)

    def buffer(self) -> Any:
        usage = self.wgpu.BufferUsage
        return self.device.create_buffer(
            size=self.size, usage=usage.STORAGE | usage.COPY_SRC | usage.COPY_DST
        )

    def bound(self, pipeline: Any, *buffers: Any) -> Any:
        entries = [
            {"binding": k, "resource": {"buffer": one, "offset": 0, "size": one.size}}
            for k, one in enumerate(buffers)
        ]
        return self.device.create_bind_group(layout=pipeline.get_bind_group_layout(0), entries=entries)

    def compute(self, code: str) -> Any:
        module = self.device.create_shader_module(code=code)
        return self.device.create_compute_pipeline(
            layout="auto", compute={"module": module, "entry_point": "main"}
        )

    def computing(self, pipeline: Any, bound: Any, groups: int, written: Any) -> Callable[[int], None]:
        """What does so many rounds of a computation, and waits for them."""

        def do(rounds: int) -> None:
            encoder = self.device.create_command_encoder()
            work = encoder.begin_compute_pass()
            work.set_pipeline(pipeline)
            work.set_bind_group(0, bound)
            for _ in range(rounds):
                work.dispatch_workgroups(groups)
            work.end()
            self.finish(encoder, written)

        return do

    def finish(self, encoder: Any, written: Any) -> None:
        """Send the work off, and wait until all of it is done."""
        if written is not None:
            encoder.copy_buffer_to_buffer(written, 0, self.mark, 0, 16)
        self.device.queue.submit([encoder.finish()])
        self.device.queue.read_buffer(self.mark, 0, 16)


def _blocks(do: Callable[[int], None], each: float) -> Iterator[float]:
    """Blocks of as many rounds as take about BLOCK_S; each says its units of work."""
    rounds = 1
    while True:
        began = time.monotonic()
        do(rounds)
        took = time.monotonic() - began
        yield rounds * each
        if took < 0.5 * BLOCK_S and rounds < MOST_ROUNDS:
            rounds *= 2
        elif took > 2.0 * BLOCK_S and rounds > 1:
            rounds //= 2


def arithmetic(seed: int) -> Iterator[float]:
    """Long chains of multiply and add on values that stay in registers."""
    chip = _Chip(16 * ELEMENTS)
    pipeline, data = chip.compute(_ARITHMETIC), chip.buffer()
    bound = chip.bound(pipeline, data)

    do = chip.computing(pipeline, bound, ELEMENTS // 64, data)
    # Two operations in each of two fused steps, on four values.
    yield from _blocks(do, ELEMENTS * STEPS * 2 * 2 * 4 / UNIT_FLOP)


def memory(seed: int) -> Iterator[float]:
    """Long arrays read and written: what counts is the chip's memory."""
    chip = _Chip(STREAM_BYTES)
    pipeline, source, target = chip.compute(_MEMORY), chip.buffer(), chip.buffer()
    bound = chip.bound(pipeline, source, target)

    do = chip.computing(pipeline, bound, 4096, target)
    # Two arrays read, one written.
    yield from _blocks(do, 3 * STREAM_BYTES / 1e6)


def drawing(seed: int) -> Iterator[float]:
    """Passes over a screen, blended onto each other: what play is made of."""
    chip = _Chip(16)
    wgpu, device = chip.wgpu, chip.device
    form = wgpu.TextureFormat.rgba8unorm
    screen = device.create_texture(
        size=(WIDTH, HEIGHT, 1),
        format=form,
        usage=wgpu.TextureUsage.RENDER_ATTACHMENT | wgpu.TextureUsage.COPY_SRC,
    )
    module = device.create_shader_module(code=_DRAWING)
    over = {"src_factor": "src-alpha", "dst_factor": "one-minus-src-alpha", "operation": "add"}
    pipeline = device.create_render_pipeline(
        layout="auto",
        vertex={"module": module, "entry_point": "corner"},
        primitive={"topology": "triangle-list"},
        fragment={
            "module": module,
            "entry_point": "shade",
            "targets": [{"format": form, "blend": {"color": over, "alpha": over}}],
        },
    )
    view = screen.create_view()

    def do(rounds: int) -> None:
        encoder = device.create_command_encoder()
        for _ in range(rounds):
            work = encoder.begin_render_pass(
                color_attachments=[
                    {"view": view, "load_op": "load", "store_op": "store", "clear_value": (0, 0, 0, 1)}
                ]
            )
            work.set_pipeline(pipeline)
            work.draw(3)
            work.end()
        encoder.copy_texture_to_buffer(
            {"texture": screen, "origin": (0, 0, 0)}, {"buffer": chip.mark, "bytes_per_row": 256}, (1, 1, 1)
        )
        chip.finish(encoder, None)

    yield from _blocks(do, WIDTH * HEIGHT / 1e6)


KERNELS = {"graphics arithmetic": arithmetic, "graphics memory": memory, "graphics drawing": drawing}


def look(size: int) -> dict[str, str]:
    """The chip that a load would take, with so much of its memory for the asking; or why that is not to be had."""
    try:
        chip = _Chip(size or 16)
        held = [chip.buffer(), chip.buffer()] if size else []
        encoder = chip.device.create_command_encoder()
        chip.finish(encoder, held[0] if held else None)
        return {"chip": chip.name}
    except NoChip as problem:
        return {"error": str(problem)}
    except Exception as problem:
        # Whatever a driver comes up with.
        words = str(problem).strip().splitlines()
        what = words[0][:120] if words else type(problem).__name__
        return {"error": f"the graphics chip cannot be used: {what}; ask for less, or see its driver"}


if __name__ == "__main__":
    print(json.dumps(look(int(sys.argv[1]))), flush=True)
    os._exit(0)
