"""Trains the network that takes a closer look at candidates (core/find/closer_look.h).

Usage: look.py --steps N [--from STATE] [--keep STATE] OUT.onnx LOOKS... LOOKS are written by
`gqtrain`: per candidate one byte that tells whether it is a blemish, then its planes (8 x 32 x 32
bytes). A network that goes on from one kept before learns at half the rate, in fewer steps.
"""

import argparse
import math

import numpy
import torch
from torch import nn

SIDE, PLANES, BATCH = 32, 8, 128
MOST_PICTURE = 4  # looks at picture detail for one at a blemish; more are thinned out


class Network(nn.Module):
    """Five small convolutions, their mean and maximum over the look, two dense layers."""

    def __init__(self):
        super().__init__()

        def layer(inputs, outputs, stride=1, side=3):
            return nn.Sequential(
                nn.Conv2d(inputs, outputs, side, stride, side // 2, bias=False),
                nn.BatchNorm2d(outputs),
                nn.ReLU(inplace=True),
            )

        self.body = nn.Sequential(
            layer(PLANES, 16, 2, 5),
            layer(16, 24),
            layer(24, 32, 2),
            layer(32, 32),
            layer(32, 48, 2),
            nn.Dropout2d(0.1),
        )
        self.mean, self.most = nn.AdaptiveAvgPool2d(1), nn.AdaptiveMaxPool2d(1)
        self.odds = nn.Sequential(nn.Linear(96, 24), nn.ReLU(), nn.Linear(24, 1))

    def forward(self, looks):
        planes = self.body(looks)
        return self.odds(torch.cat([self.mean(planes), self.most(planes)], 1).flatten(1))


def read(paths):
    """Looks, labels, and the share of picture detail that was kept."""
    one_look = 1 + PLANES * SIDE * SIDE
    raw = [numpy.memmap(path, numpy.uint8, "r").reshape(-1, one_look) for path in paths]
    labels = numpy.concatenate([one[:, 0] for one in raw])
    blemish = labels == 1
    share = min(1.0, MOST_PICTURE * blemish.sum() / max(1, (~blemish).sum()))
    kept = blemish | (numpy.random.default_rng(1).random(len(labels)) < share)
    looks = numpy.empty((kept.sum(), one_look - 1), numpy.uint8)  # some GB: never there twice
    seen = filled = 0
    for one in raw:
        part = kept[seen : seen + len(one)]
        looks[filled : filled + part.sum()] = one[part, 1:]
        seen, filled = seen + len(one), filled + part.sum()
    print(f"{paths}: {blemish.sum()} blemishes among {len(kept)} looks, {len(looks)} used", flush=True)
    looks = torch.from_numpy(looks.reshape(-1, PLANES, SIDE, SIDE))
    return looks, torch.from_numpy(labels[kept].astype(numpy.float32)), share


def turned(batch):
    """Dust has no up or left: mirrored and turned looks are as good."""
    batch = batch.flip([axis for axis in (2, 3) if torch.rand(1) < 0.5])
    return batch.transpose(2, 3) if torch.rand(1) < 0.5 else batch


def train(network, looks, labels, steps, rate):
    # Planes innermost, which the convolutions take a fifth faster.
    network = network.to(memory_format=torch.channels_last)
    optimizer = torch.optim.AdamW(network.parameters(), 1e-3, weight_decay=2e-2, foreach=True)
    schedule = torch.optim.lr_scheduler.OneCycleLR(optimizer, rate, total_steps=steps)
    loss_of = nn.functional.binary_cross_entropy_with_logits
    order, total = torch.randperm(len(labels)), 0.0
    for step in range(steps):
        if len(order) < BATCH:
            order = torch.randperm(len(labels))
        some, order = order[:BATCH], order[BATCH:]
        batch = turned(looks[some]).contiguous(memory_format=torch.channels_last)
        odds = network(batch.float().div_(255).sub_(0.5))[:, 0]
        loss = loss_of(odds, labels[some])
        optimizer.zero_grad(set_to_none=True)
        loss.backward()
        optimizer.step()
        schedule.step()
        total += loss.item()
        if step % 400 == 399:
            print(f"step {step + 1} of {steps}: loss {total / 400:.4f}", flush=True)
            total = 0.0
    return network.eval()


def main():
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("out")
    parser.add_argument("looks", nargs="+")
    parser.add_argument("--steps", type=int, required=True)
    parser.add_argument("--from", dest="before", help="network to go on from")
    parser.add_argument("--keep", help="where another can go on from this one")
    arguments = parser.parse_args()
    torch.manual_seed(1)
    looks, labels, share = read(arguments.looks)
    network, rate = Network(), 5e-3
    if arguments.before:
        network.load_state_dict(torch.load(arguments.before))
        rate /= 2
    network = train(network, looks, labels, arguments.steps, rate)
    if arguments.keep:
        torch.save(network.state_dict(), arguments.keep)
    with torch.no_grad():  # as if all picture detail had been seen
        network.odds[-1].bias += math.log(share)
    torch.onnx.export(
        network,
        torch.zeros(1, PLANES, SIDE, SIDE),
        arguments.out,
        input_names=["look"],
        output_names=["odds"],
        opset_version=11,
        dynamic_axes={"look": {0: "count"}, "odds": {0: "count"}},
    )


if __name__ == "__main__":
    main()
