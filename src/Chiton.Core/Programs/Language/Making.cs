using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>Makes what a line names and nobody has made yet, so that the line can be read.</summary>
public static class Making
{
    /// <summary>What can be made so; other names are made in Rig.</summary>
    public static bool Can(MissingName name) =>
        RigNames.IsName(name.Name) && name.Kind is "state" or "variable" || name is { Kind: "zone" or "position", Of: not null };

    /// <summary>What is offered, in words.</summary>
    public static string Label(MissingName name) =>
        name.Of is { } of ? $"Make the {name.Kind} {name.Name} of {of}" : $"Make the {name.Kind} {name.Name}";

    /// <summary>The edit of the program that makes a state or variable; null where the rig is to be changed.</summary>
    /// <param name="name">The name.</param>
    /// <param name="script">The program's text.</param>
    /// <param name="program">What it says.</param>
    /// <param name="line">The line that is typed, or that a new line stands below.</param>
    public static OutlineEdit? InProgram(MissingName name, string script, ProgramNode program, int line)
    {
        switch (name.Kind)
        {
            case "state":
                var standing = new Standing(program, ScriptParser.Split(script));
                var item = standing.At(line);
                while (item is not null and not { Node: StateNode })
                    item = item.Parent;
                return new(OutlineAct.AddState, item?.Line ?? 0, $"state {name.Name}");
            case "variable":
                return new(OutlineAct.Add, program.Head.Select(h => h.Span.Line).Append(program.Span.Line).Max(), $"var {name.Name} = 0");
            default:
                return null;
        }
    }

    /// <summary>The rig with a zone of a sensor or a position of a mechanism more.</summary>
    /// <exception cref="InputProblem">When there is no such sensor or mechanism, or it has that name already.</exception>
    public static RigDesign InRig(RigDesign rig, MissingName name)
    {
        bool Taken(IEnumerable<string> names) => names.Any(n => n.Equals(name.Name, StringComparison.OrdinalIgnoreCase));
        if (name.Kind == "zone" && rig.Sensors.FirstOrDefault(s => s.Name == name.Of) is { } sensor)
            return Taken(sensor.Zones)
                ? throw new InputProblem("name", $"{sensor.Name} has a zone “{name.Name}” already.")
                : rig with
                {
                    Sensors = rig.Sensors.Select(s => s == sensor ? s with { Zones = [.. s.Zones, name.Name] } : s).ToSequence(),
                };
        if (name.Kind == "position" && rig.Mechanisms.FirstOrDefault(m => m.Name == name.Of) is { } mechanism)
            return Taken(mechanism.Positions)
                ? throw new InputProblem("name", $"{mechanism.Name} has a position “{name.Name}” already.")
                : rig with
                {
                    Mechanisms = rig
                        .Mechanisms.Select(m => m == mechanism ? m with { Positions = [.. m.Positions, name.Name] } : m)
                        .ToSequence(),
                };
        throw new InputProblem("of", $"There is nothing called “{name.Of}” that could have a {name.Kind}.");
    }
}
