"""The general pose network's layers, read from its published file into torch, so that they can go on learning."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import tflite
import torch
from torch import Tensor, nn
from torch.nn import functional

WEIGHTS = Path(__file__).parent / "pose_landmark_full.tflite"
KINDS = {value: name for name, value in vars(tflite.BuiltinOperator).items() if isinstance(value, int)}
ACTIVATIONS = {0: lambda x: x, 1: functional.relu, 3: functional.relu6}


class Graph(nn.Module):
    """The layers between some tensors and others, each tensor known by its number in the file; pictures `(n, channels, rows, columns)`."""

    def __init__(self, first: list[int] | None, last: list[int]) -> None:
        """`first` are the tensors that are given, None for the picture; `last` those that are wanted."""
        super().__init__()
        model = tflite.Model.GetRootAsModel(WEIGHTS.read_bytes(), 0)
        self._graph = model.Subgraphs(0)
        self.first, self.last = first or [int(self._graph.Inputs(0))], last
        held = self._constants(model)
        wanted, chosen = set(last), []
        for place in reversed(range(self._graph.OperatorsLength())):
            op = self._graph.Operators(place)
            code = model.OperatorCodes(op.OpcodeIndex())
            kind = KINDS[max(code.BuiltinCode(), code.DeprecatedBuiltinCode())]
            if kind == "DEQUANTIZE" or op.Outputs(0) not in wanted or op.Outputs(0) in self.first:
                continue
            chosen.append((kind, op))
            wanted |= {int(tensor) for tensor in op.InputsAsNumpy()}
        self.steps: list[tuple[str, list[int], int, int, tuple[int, ...], str]] = []
        self.weights = nn.ParameterDict()
        for kind, op in reversed(chosen):
            self._add(kind, op, held)
        del self._graph

    def forward(self, *given: Tensor) -> list[Tensor]:
        there = dict(zip(self.first, given, strict=True))
        for kind, inputs, output, activation, more, name in self.steps:
            x = there[inputs[0]]
            if kind in ("CONV_2D", "DEPTHWISE_CONV_2D"):
                weight, stride, same = self.weights[f"{name}_w"], more[0], more[1]
                if same:
                    rows, columns = (
                        max((-(-size // stride) - 1) * stride + kernel - size, 0)
                        for size, kernel in zip(x.shape[2:], weight.shape[2:], strict=True)
                    )
                    x = functional.pad(x, (columns // 2, columns - columns // 2, rows // 2, rows - rows // 2)) if stride > 1 else x
                    padding: tuple[int, int] = (0, 0) if stride > 1 else (weight.shape[2] // 2, weight.shape[3] // 2)
                else:
                    padding = (0, 0)
                groups = x.shape[1] if kind.startswith("D") else 1
                x = functional.conv2d(x, weight, self.weights[f"{name}_b"], stride, padding, groups=groups)
            elif kind == "PAD":
                x = functional.pad(x, more)
            elif kind == "ADD":
                x = x + there[inputs[1]]
            elif kind == "RESIZE_BILINEAR":
                x = functional.interpolate(x, scale_factor=2, mode="bilinear", align_corners=False)
            else:
                raise ValueError(f"The layer {kind} is not known here.")
            there[output] = ACTIVATIONS[activation](x)
        return [there[tensor] for tensor in self.last]

    def _constants(self, model: tflite.Model) -> dict[int, np.ndarray]:
        """Weights by tensor, also those that are kept as half as precise numbers and widened by a layer of their own."""
        held: dict[int, np.ndarray] = {}
        for place in range(self._graph.TensorsLength()):
            tensor = self._graph.Tensors(place)
            data = model.Buffers(tensor.Buffer()).DataAsNumpy()
            if isinstance(data, np.ndarray) and len(data):
                kind = {tflite.TensorType.FLOAT16: np.float16, tflite.TensorType.FLOAT32: np.float32, tflite.TensorType.INT32: np.int32}[
                    tensor.Type()
                ]
                held[place] = data.view(kind).reshape(tensor.ShapeAsNumpy())
        for place in range(self._graph.OperatorsLength()):
            op = self._graph.Operators(place)
            if op.Inputs(0) in held and op.InputsLength() == 1:
                held[int(op.Outputs(0))] = held[int(op.Inputs(0))].astype(np.float32)
        return held

    def _add(self, kind: str, op: tflite.Operator, held: dict[int, np.ndarray]) -> None:
        inputs, output = [int(tensor) for tensor in op.InputsAsNumpy()], int(op.Outputs(0))
        name, activation, more = str(output), 0, ()
        if kind in ("CONV_2D", "DEPTHWISE_CONV_2D"):
            told = tflite.Conv2DOptions() if kind == "CONV_2D" else tflite.DepthwiseConv2DOptions()
            told.Init(op.BuiltinOptions().Bytes, op.BuiltinOptions().Pos)
            activation, more = told.FusedActivationFunction(), (told.StrideH(), int(told.Padding() == 0))
            weight = held[inputs[1]].transpose(0, 3, 1, 2) if kind == "CONV_2D" else held[inputs[1]].transpose(3, 0, 1, 2)
            self.weights[f"{name}_w"] = nn.Parameter(torch.tensor(np.ascontiguousarray(weight)))
            self.weights[f"{name}_b"] = nn.Parameter(torch.tensor(held[inputs[2]].copy()))
        elif kind == "ADD":
            told = tflite.AddOptions()
            told.Init(op.BuiltinOptions().Bytes, op.BuiltinOptions().Pos)
            activation = told.FusedActivationFunction()
        elif kind == "PAD":
            (top, bottom), (left, right) = held[inputs[1]][1:3]
            more = (int(left), int(right), int(top), int(bottom))
        self.steps.append((kind, inputs, output, activation, more, name))
