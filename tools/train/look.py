"""Trains the network that takes a closer look at candidates (core/find/closer_look.h).

Usage: look.py LOOKS OUT.onnx [--epochs N]. LOOKS is written by `gqtrain --looks`: per candidate one
byte that tells whether it is a blemish, then its planes (4 x 32 x 32 bytes).
"""

import argparse

import numpy
import torch
from torch import nn

SIDE, PLANES, BATCH = 32, 4, 256


class Network(nn.Module):
    """Six small convolutions, their mean and maximum over the look, two dense layers."""

    def __init__(self):
        super().__init__()

        def layer(inputs, outputs, stride=1):
            return nn.Sequential(
                nn.Conv2d(inputs, outputs, 3, stride, 1, bias=False),
                nn.BatchNorm2d(outputs),
                nn.ReLU(),
            )

        self.body = nn.Sequential(
            layer(PLANES, 12),
            layer(12, 20, 2),
            layer(20, 20),
            layer(20, 32, 2),
            layer(32, 32),
            layer(32, 48, 2),
            nn.Dropout2d(0.1),
        )
        self.mean, self.most = nn.AdaptiveAvgPool2d(1), nn.AdaptiveMaxPool2d(1)
        self.odds = nn.Sequential(nn.Linear(96, 24), nn.ReLU(), nn.Linear(24, 1))

    def forward(self, looks):
        planes = self.body(looks)
        return self.odds(torch.cat([self.mean(planes), self.most(planes)], 1).flatten(1))


def read(path):
    raw = numpy.fromfile(path, numpy.uint8).reshape(-1, 1 + PLANES * SIDE * SIDE)
    looks = torch.from_numpy(raw[:, 1:].reshape(-1, PLANES, SIDE, SIDE))
    return looks, torch.from_numpy(raw[:, 0].astype(numpy.float32))


def turned(batch):
    """Dust has no up or left: mirrored and turned looks are as good."""
    for axis in (2, 3):
        if torch.rand(1) < 0.5:
            batch = batch.flip(axis)
    return batch.transpose(2, 3) if torch.rand(1) < 0.5 else batch


def train(looks, labels, epochs):
    network = Network()
    steps = len(labels) // BATCH
    optimizer = torch.optim.AdamW(network.parameters(), 1e-3, weight_decay=1e-2)
    schedule = torch.optim.lr_scheduler.OneCycleLR(optimizer, 4e-3, total_steps=epochs * steps)
    loss_of = nn.functional.binary_cross_entropy_with_logits
    for epoch in range(epochs):
        order, total = torch.randperm(len(labels)), 0.0
        for i in range(steps):
            some = order[i * BATCH : (i + 1) * BATCH]
            odds = network(turned(looks[some].float() / 255 - 0.5))[:, 0]
            loss = loss_of(odds, labels[some])
            optimizer.zero_grad()
            loss.backward()
            optimizer.step()
            schedule.step()
            total += loss.item()
        print(f"epoch {epoch + 1} of {epochs}: loss {total / steps:.4f}", flush=True)
    return network.eval()


def main():
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("looks")
    parser.add_argument("out")
    parser.add_argument("--epochs", type=int, default=8)
    arguments = parser.parse_args()
    torch.manual_seed(1)
    network = train(*read(arguments.looks), arguments.epochs)
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
