using System.Globalization;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;

namespace Chiton.Box;

/// <summary>What a box is started with.</summary>
/// <param name="Rig">Address of the rig.</param>
/// <param name="Copy">Copy number, 1 to 999; null for the first.</param>
/// <param name="Port">The port, 0 to 65535; 0 for any that is free.</param>
/// <param name="Seed">Same seed, same hidden numbers.</param>
/// <param name="Folder">Where the data is; null for the demo as it ships.</param>
/// <param name="Typed">Lines that are typed at its start.</param>
public sealed record BoxAsked(string Rig, int? Copy, int Port, long Seed, string? Folder, IReadOnlyList<string> Typed)
{
    /// <summary>What can be said.</summary>
    public const string Usage = """
        ./dev box RIG [COPY] [--port 5190] [--seed 1] [--fault NAME] [--every MICROS] [--data FOLDER]

        RIG is the address of a rig, as seed-trolley. Its data is that of a Chiton that runs (CHITON_DATA, the demo, or ./data), else
        the demo as it ships. Then join a real copy to 127.0.0.1 and the port.

        Typed lines: pull, plug, start, stop, hold SENSOR over THING, fault NAME, every MICROS. Stop it with Ctrl+C.
        """;

    /// <summary>Names of what it can do wrong.</summary>
    public static IReadOnlyList<string> Faults { get; } = [.. Enum.GetNames<BoxFault>().Select(f => f.ToLowerInvariant())];

    /// <summary>A fault by its name; null where there is none of that name.</summary>
    public static BoxFault? Fault(string name) =>
        Faults.Contains(name.ToLowerInvariant()) ? Enum.Parse<BoxFault>(name, ignoreCase: true) : null;

    /// <summary>Reads what was typed behind the command.</summary>
    /// <param name="args">The words.</param>
    /// <param name="folder">Where the data is unless it is said.</param>
    /// <exception cref="BoxTrouble">Names the word and what is allowed.</exception>
    public static BoxAsked Read(IReadOnlyList<string> args, string? folder)
    {
        string? rig = null;
        int? copy = null;
        var (port, seed) = (5190, 1L);
        var typed = new List<string>();
        for (var i = 0; i < args.Count; i++)
        {
            var word = args[i];
            string Next() => i + 1 < args.Count ? args[++i] : throw new BoxTrouble($"Behind {word} something is missing.");
            long Whole(string text, long least, long most) =>
                long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var n) && n >= least && n <= most
                    ? n
                    : throw new BoxTrouble($"{word} must be a whole number, {least} to {most}; “{text}” is none.");
            switch (word)
            {
                case "--port":
                    port = (int)Whole(Next(), 0, 65535);
                    break;
                case "--seed":
                    seed = Whole(Next(), 0, uint.MaxValue);
                    break;
                case "--data":
                    folder = Next();
                    break;
                case "--every":
                    typed.Add(string.Create(CultureInfo.InvariantCulture, $"every {Whole(Next(), 1, 1_000_000_000)}"));
                    break;
                case "--fault":
                    var name = Next();
                    typed.Add(
                        Fault(name) is not null
                            ? $"fault {name}"
                            : throw new BoxTrouble($"--fault must be {string.Join(", ", Faults)}; “{name}” is none of them.")
                    );
                    break;
                case ['-', ..]:
                    throw new BoxTrouble(
                        $"There is no {word}. There are {Figures.List(["--port", "--seed", "--fault", "--every", "--data"])}."
                    );
                case var _ when rig is null:
                    rig = word;
                    break;
                case var _ when copy is null:
                    word = "The copy";
                    copy = (int)Whole(args[i], 1, 999);
                    break;
                default:
                    throw new BoxTrouble($"“{word}” is one word too many: a rig and a copy are enough.");
            }
        }
        return new(rig ?? throw new BoxTrouble("Say which rig, as seed-trolley."), copy, port, seed, folder, typed);
    }
}
