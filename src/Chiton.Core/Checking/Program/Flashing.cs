using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;

namespace Chiton.Core.Checking;

/// <summary>A lamp that flashes more than three times a second. Source: the general limit for flashes in a room, three a second.</summary>
internal sealed class Flashing : Check
{
    /// <summary>Most flashes a second.</summary>
    private const double Most = 3;

    /// <inheritdoc/>
    public override string Code => "flashing";

    /// <inheritdoc/>
    public override string Title => "Flashes too fast";

    /// <inheritdoc/>
    public override string Says =>
        "A lamp flashes more than three times a second. In a class that can make somebody ill; slower is seen as well.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Risky;

    /// <inheritdoc/>
    public override string Example => "region Main\n  state Calling, initial\n    while here: blink Lamp 0.1 s on 0.1 s off\n";

    /// <inheritdoc/>
    public override string Mended => "region Main\n  state Calling, initial\n    while here: blink Lamp 0.2 s on 0.2 s off\n";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var command in input.Walk.Commands)
        {
            if (command.Action is not BlinkNode blink)
                continue;
            // The quickest of what the two times may be.
            double[] on = [.. input.Walk.Values(blink.On).Select(v => v.Value)],
                off = [.. input.Walk.Values(blink.Off).Select(v => v.Value)];
            if (on.Length == 0 || off.Length == 0 || on.Min() + off.Min() is var period && (period <= 0 || 1 / period <= Most + 1e-9))
                continue;
            // Two flashes are no series, but a third one is.
            if (blink.Times is { } times && input.Walk.Values(times) is { Count: > 0 } said && said.Max(v => v.Value) <= Most)
                continue;
            var slow = new LiteralNode("0.2", "s");
            var cured = blink with { On = slow, Off = slow };
            Cure? cure =
                blink.On is LiteralNode && blink.Off is LiteralNode
                    ? new(
                        "Flash 2.5 times a second",
                        [
                            new(
                                command.At.Number,
                                command.With(cured),
                                command.NumberIndex(blink with { On = new LiteralNode("987654321", "s") }),
                                "at most three flashes a second"
                            ),
                        ]
                    )
                    : null;
            yield return At(
                command.At,
                Severity.Risky,
                $"{blink.Lamp} flashes {Figures.Show(1 / period, 2)} times a second",
                $"{Figures.Show(on.Min())} s on and {Figures.Show(off.Min())} s off are {Figures.Show(1 / period, 2)} flashes a second. "
                    + "More than three can make somebody in the room ill.",
                blink.Lamp,
                cure
            );
        }
    }
}
