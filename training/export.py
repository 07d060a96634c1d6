"""Write what has been learned as one file that the application runs, its weights at half precision.

python -m training.export --run training/.runs/first --to core/atleta/tracking/weights/lifter.onnx
"""

from __future__ import annotations

import argparse
import io
from pathlib import Path

import onnx
import torch
from onnx import TensorProto, helper, numpy_helper
from torch import Tensor, nn

from .network import Held, Learner
from .squares import KEPT_PX

GIVEN, TOLD = "pictures", ("points", "sd", "correlation", "seen", "mask", "there")
OPSET = 17
# Constants of fewer numbers stay as they are.
FEWEST = 256


class Whole(nn.Module):
    """Pictures `(n, 3, 256, 256)`, red green blue, 0 to 1, to what `network.Told` has, chances for logits."""

    def __init__(self, learner: Learner) -> None:
        super().__init__()
        self.held, self.learner = Held(), learner

    def forward(self, pictures: Tensor) -> tuple[Tensor, ...]:
        told = self.learner(*self.held(pictures))
        return (
            told.points, told.sd, told.correlation, torch.sigmoid(told.seen), torch.sigmoid(told.mask), torch.sigmoid(told.there),
        )  # fmt: skip


def halved(model: onnx.ModelProto) -> onnx.ModelProto:
    """The same with its large constants kept at half precision, widened when the file is read."""
    kept = list(model.graph.initializer)
    del model.graph.initializer[:]
    casts = []
    for constant in kept:
        values = numpy_helper.to_array(constant)
        if constant.data_type != TensorProto.FLOAT or values.size < FEWEST:
            model.graph.initializer.append(constant)
            continue
        narrow = f"{constant.name}_half"
        model.graph.initializer.append(numpy_helper.from_array(values.astype("float16"), narrow))
        casts.append(helper.make_node("Cast", [narrow], [constant.name], to=TensorProto.FLOAT))
    nodes = [*casts, *model.graph.node]
    del model.graph.node[:]
    model.graph.node.extend(nodes)
    onnx.checker.check_model(model)
    return model


def learned(file: Path) -> dict[str, Tensor]:
    """What a file that was written here has learned, as `Learner` keeps it."""
    kept = {constant.name: numpy_helper.to_array(constant) for constant in onnx.load(file).graph.initializer}
    told = {name: kept.get(f"learner.{name}", kept.get(f"learner.{name}_half")) for name in Learner().state_dict()}
    missing = [name for name, values in told.items() if values is None]
    if missing:
        raise ValueError(f"{file} was not written by training.export, or by another version of it: it has no {missing[0]}.")
    return {name: torch.tensor(values.astype("float32")) for name, values in told.items()}


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    asked.add_argument("--run", type=Path, required=True)
    asked.add_argument("--to", type=Path, required=True)
    chosen = asked.parse_args()
    learner = Learner()
    state = torch.load(chosen.run / "last.pt")
    learner.load_state_dict(state["averaged"])
    written = io.BytesIO()
    torch.onnx.export(
        Whole(learner).eval(), (torch.zeros(1, 3, KEPT_PX, KEPT_PX),), written, input_names=[GIVEN], output_names=list(TOLD),
        dynamic_axes={name: {0: "n"} for name in (GIVEN, *TOLD)}, opset_version=OPSET, dynamo=False,
        # Names stay as they are, so that a new run can go on from the file.
        do_constant_folding=False,
    )  # fmt: skip
    model = halved(onnx.load_from_string(written.getvalue()))
    chosen.to.write_bytes(model.SerializeToString())
    print(f"{chosen.to}: {chosen.to.stat().st_size / 1e6:.1f} MB, after {state['step']} steps")


if __name__ == "__main__":
    main()
