using Chiton.Core.Motion;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Outside;

/// <summary>A copy of a rig whose programs are taken out.</summary>
/// <param name="Rig">The design.</param>
/// <param name="Copy">What people call the copy.</param>
/// <param name="Moves">What is known of its motion.</param>
/// <param name="Calibrations">Its calibrations, by sensor.</param>
/// <param name="Positions">Angles that were recorded on it, by mechanism or motor and position.</param>
public sealed record BoardCopy(
    RigDesign Rig,
    string Copy,
    CopyMoves Moves,
    IReadOnlyDictionary<string, SensorCalibration> Calibrations,
    IReadOnlyDictionary<string, IReadOnlyDictionary<string, IReadOnlyList<double>>> Positions
)
{
    /// <summary>What the code says of the revision that it was taken from; empty for nothing.</summary>
    public string Revision { get; init; } = "";

    /// <summary>What a board says on the line that it holds; empty for nothing.</summary>
    public string Holds { get; init; } = "";
}

/// <summary>One program as it goes onto a board.</summary>
internal sealed class BoardProgram
{
    /// <summary>Its name.</summary>
    public required string Name { get; init; }

    /// <summary>Name of its tables in the code.</summary>
    public required string Code { get; init; }

    /// <summary>Its text, as its author wrote it.</summary>
    public required string Text { get; init; }

    /// <summary>What its text says.</summary>
    public required ProgramNode Node { get; init; }

    /// <summary>Its tables.</summary>
    public required CompiledScript Script { get; init; }

    /// <summary>By sensor how a board tells its zone where no thresholds do.</summary>
    public required BoardReader?[] Readers { get; init; }

    /// <summary>What its sentences tell devices.</summary>
    public required BoardOrders Orders { get; init; }

    /// <summary>For each of its sensors the board's number; −1 for one that nothing asks for.</summary>
    public int[] SensorOut { get; set; } = [];

    /// <summary>For each of its devices the board's number.</summary>
    public int[] DeviceOut { get; set; } = [];

    /// <summary>For each of its texts the board's number.</summary>
    public int[] TextOut { get; set; } = [];

    /// <summary>For each program that it knows the board's number.</summary>
    public int[] ProgramOut { get; set; } = [];
}

/// <summary>A sensor as a board knows it.</summary>
/// <param name="Name">Its name on the rig.</param>
/// <param name="Code">Its name in the code.</param>
/// <param name="Design">What it is.</param>
/// <param name="PeriodMicros">Time between its readings, µs.</param>
internal sealed record BoardSensor(string Name, string Code, Sensor Design, long PeriodMicros);

/// <summary>A device as a board knows it.</summary>
/// <param name="Name">Its name on the rig.</param>
/// <param name="Code">Its name in the code.</param>
/// <param name="Moves">True for what moves something.</param>
internal sealed record BoardDevice(string Name, string Code, bool Moves);

/// <summary>Programs of a rig, made ready to be written for a board.</summary>
internal sealed class BoardRig
{
    private BoardRig(BoardCopy copy, IReadOnlyList<BoardProgram> programs, bool all)
    {
        (Copy, Programs, All) = (copy, programs, all);
        var rig = copy.Rig;
        // Sensors and devices stand in places of their own.
        var (sensorNames, deviceNames) = (new BoardNames(), new BoardNames());
        // A rig may be called like the tables of a program.
        var structs = new BoardNames();
        foreach (var p in programs)
            structs.Of(p.Code);
        Name = structs.Of(rig.Name);
        string Outside(BoardProgram p, string name) => p.Node.OwnNames.FirstOrDefault(o => o.Name == name)?.Outside ?? name;
        var asked = programs.SelectMany(p => Used(p.Script).Select(s => Outside(p, p.Script.Sensors[s]))).ToHashSet();
        Sensors =
        [
            .. rig
                .Sensors.Where(s => asked.Contains(s.Name))
                .Select(s => new BoardSensor(s.Name, sensorNames.Of(s.Name), s, Math.Max(1, (long)Math.Round(s.SamplePeriodMs * 1000)))),
        ];
        Devices =
        [
            .. programs
                .SelectMany(p => p.Script.Devices.Select((d, i) => (Name: Outside(p, d), Moves: p.Script.Moves[i])))
                .GroupBy(d => d.Name)
                .Select(g => new BoardDevice(g.Key, deviceNames.Of(g.Key), g.Any(d => d.Moves))),
        ];
        Texts = [.. programs.SelectMany(p => p.Script.Texts).Distinct()];
        // Those that run here come first, then those that they speak of.
        Names = [.. programs.Select(p => p.Name).Concat(programs.SelectMany(p => p.Script.Programs)).Distinct()];
        foreach (var p in programs)
        {
            p.SensorOut = [.. p.Script.Sensors.Select(s => Find(Sensors, x => x.Name == Outside(p, s)))];
            p.DeviceOut = [.. p.Script.Devices.Select(d => Find(Devices, x => x.Name == Outside(p, d)))];
            p.TextOut = [.. p.Script.Texts.Select(t => Find(Texts, x => x == t))];
            p.ProgramOut = [.. p.Script.Programs.Select(n => Find(Names, x => x == n))];
        }
        MessageMicros = (long)((rig.MessageDelay?.Value ?? 0) * 1000);
    }

    private static int Find<T>(IReadOnlyList<T> list, Func<T, bool> that) =>
        list.Index().Where(x => that(x.Item)).Select(x => x.Index).DefaultIfEmpty(-1).First();

    /// <summary>What is taken out.</summary>
    public BoardCopy Copy { get; }

    /// <summary>Its programs.</summary>
    public IReadOnlyList<BoardProgram> Programs { get; }

    /// <summary>True when all programs of the rig are here.</summary>
    public bool All { get; }

    /// <summary>Name of the whole in the code.</summary>
    public string Name { get; }

    /// <summary>Sensors that somebody asks for.</summary>
    public IReadOnlyList<BoardSensor> Sensors { get; }

    /// <summary>Devices that somebody commands.</summary>
    public IReadOnlyList<BoardDevice> Devices { get; }

    /// <summary>Texts that are told or shown.</summary>
    public IReadOnlyList<string> Texts { get; }

    /// <summary>Programs by name, those that are here first.</summary>
    public IReadOnlyList<string> Names { get; }

    /// <summary>How long a message takes from one program to the other, µs.</summary>
    public long MessageMicros { get; }

    private IEnumerable<int> Told =>
        Programs.SelectMany(p =>
            p.Script.Units.SelectMany(u => u.Activities).Where(a => a.Kind == DoKind.Tell).Select(a => p.ProgramOut[a.Slot])
        );

    /// <summary>True when programs of the board tell each other something.</summary>
    public bool IsNetwork => Programs.Count > 1 || Told.Any(p => p < Programs.Count);

    /// <summary>True when one of them tells a program something that is not here.</summary>
    public bool Tells => Told.Any(p => p >= Programs.Count);

    /// <summary>True when one of them waits to be told something that nobody here tells it.</summary>
    public bool Hears
    {
        get
        {
            var here = Programs
                .SelectMany(p =>
                    p.Script.Units.SelectMany(u => u.Activities)
                        .Where(a => a.Kind == DoKind.Tell)
                        .Select(a => (To: p.ProgramOut[a.Slot], Text: p.TextOut[a.Other]))
                )
                .ToHashSet();
            return Programs
                .Index()
                .Any(p =>
                    p.Item.Script.Units.SelectMany(u => u.Transitions)
                        .Any(t => t.Kind == FireKind.Told && !here.Contains((p.Index, p.Item.TextOut[t.Text])))
                );
        }
    }

    /// <summary>Most values that go with a message between programs of the board.</summary>
    public int MostTold =>
        Programs
            .SelectMany(p => p.Script.Units)
            .SelectMany(u => u.Activities)
            .Where(a => a.Kind == DoKind.Tell)
            .Select(a => Math.Min(16, a.Args.Length))
            .DefaultIfEmpty(0)
            .Max();

    /// <summary>Sensors that a program asks for.</summary>
    private static IEnumerable<int> Used(CompiledScript script) =>
        script
            .Units.SelectMany(u =>
                u.Transitions.Select(t => t.Sensor).Concat(u.Activities.Where(a => a.Kind == DoKind.Teach).Select(a => a.Slot))
            )
            .Concat(script.Marks.Select(m => m.Sensor))
            .Concat(
                script.AllCodes.SelectMany(c =>
                    c switch
                    {
                        Reading r => [r.Sensor],
                        ZoneOf z => [script.Trackers[z.Sensor].Sensor],
                        InZone z => [z.Sensor],
                        CannotTell x => [x.Sensor],
                        HearsNothing h => [h.Sensor],
                        Beyond b => [b.Sensor],
                        Comparison x => x.Asked.Concat(x.Read),
                        _ => Enumerable.Empty<int>(),
                    }
                )
            )
            .Where(s => s >= 0)
            .Distinct();

    /// <summary>Makes programs of a copy ready.</summary>
    /// <param name="copy">The copy.</param>
    /// <param name="program">Which of its programs; null for all that run.</param>
    /// <exception cref="InputProblem">When there is none, one has faults, or what is known of the copy does not do.</exception>
    public static BoardRig Of(BoardCopy copy, int? program)
    {
        var rig = copy.Rig;
        var all = RigPrograms.Of(rig);
        if (program is { } index && (index < 0 || index >= all.Count))
            throw new InputProblem("program", $"There is no program {index + 1} on this rig.");
        RigProgram[] chosen = [.. all.Where(p => program is { } i ? p.Index == i : p.Runs)];
        if (chosen.Length == 0)
            throw new InputProblem("program", "No program runs on this rig. Put one on its controller first.");
        var legal = new BoardNames();
        var made = chosen.Select(p => Program(copy, p, legal.Of(p.Name + " program"))).ToArray();
        return new(copy, made, program is null || chosen.Length == all.Count(p => p.Runs));
    }

    private static BoardProgram Program(BoardCopy copy, RigProgram program, string code)
    {
        var rig = copy.Rig;
        if (program.Parsed.Diagnostics.Count > 0)
            throw new InputProblem(
                "program",
                $"The program {program.Name} has {Figures.Count(program.Parsed.Diagnostics.Count, "fault")}: line "
                    + $"{program.Parsed.Diagnostics[0].Line}: {program.Parsed.Diagnostics[0].Message} Mend it in Script first."
            );
        var words = Vocabulary.For(rig, rig.ProgramAt(program.Index));
        var script = ScriptCompiler.ForCopy(program.Parsed.Program, words, rig, copy.Moves.Timings, copy.Calibrations, []);
        var node = program.Parsed.Program;
        string Outside(string name) => node.OwnNames.FirstOrDefault(o => o.Name == name)?.Outside ?? name;
        var designs = script.Sensors.Select(s => rig.Sensors.FirstOrDefault(x => x.Name == Outside(s))).ToArray();
        return new()
        {
            Name = program.Name,
            Code = code,
            Text = rig.Programs[program.Index].Script,
            Node = node,
            Script = script,
            Readers = [.. designs.Select(d => d is null ? null : BoardReader.Of(d, copy.Calibrations.GetValueOrDefault(d.Name)))],
            Orders = new(node, rig, copy.Positions),
        };
    }
}
