using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>A sensor that is awaited by a program on another controller than the one it is wired to.</summary>
internal sealed class WrongController : Check
{
    /// <inheritdoc/>
    public override string Code => "wrong-controller";

    /// <inheritdoc/>
    public override string Title => "A device of another controller";

    /// <inheritdoc/>
    public override string Says =>
        "A program waits for a sensor that is wired to another controller: nothing ever comes from it. A command to a device "
        + "of another controller is refused by the sheet as it is written.";

    /// <inheritdoc/>
    public override string Part => "rig";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) =>
        input.Rig.Controllers.Count(c => c.Role == NodeRole.Controller) > 1 ? null : "This rig has one controller.";

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        // A host reads every controller over the link.
        if (input.Program is not { OnHost: false, Place: { } here })
            yield break;
        bool Runs(string controller) => input.Rig.Controllers.Any(c => c.Name == controller && c.Role == NodeRole.Controller);
        var asked = new Asked();
        asked.Map(input.Node with { Head = [] });
        foreach (var sensor in input.Rig.Sensors)
        {
            string[] homes =
            [
                .. input.Rig.Wires.Where(w => w.Device == sensor.Name && Runs(w.Controller)).Select(w => w.Controller).Distinct(),
            ];
            if (homes.Length == 0 || homes.Contains(here) || input.Node.OwnNames.Any(o => o.Name == sensor.Name))
                continue;
            if (!asked.First.TryGetValue(sensor.Name, out var line) || input.Walk.Lines.FirstOrDefault(l => l.Number == line) is not { } at)
                continue;
            yield return At(
                at,
                Severity.Stops,
                $"{sensor.Name} is not on {here}",
                $"{sensor.Name} is wired to {homes[0]}, and {input.Program.Name} runs on {here}: it never hears of it. Let a program on "
                    + $"{homes[0]} tell it, or wire {sensor.Name} to {here}.",
                sensor.Name
            );
        }
    }

    // The first line that asks for each sensor: in a trigger, a guard, or anywhere in what is done.
    private sealed class Asked : NameMap
    {
        private readonly List<string> here = [];

        public Dictionary<string, int> First { get; } = [];

        protected override string Sensor(string name)
        {
            here.Add(name);
            return name;
        }

        protected override LineNode Line(LineNode line)
        {
            foreach (var name in here)
                First[name] = First.TryGetValue(name, out var before) ? Math.Min(before, line.Span.Line) : line.Span.Line;
            here.Clear();
            return line;
        }
    }
}
