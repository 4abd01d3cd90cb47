using System.Globalization;
using System.Text;
using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Outside;

/// <summary>The language that code for a board is written in.</summary>
public enum BoardLanguage
{
    /// <summary>C++17: one header.</summary>
    Cpp,

    /// <summary>Python 3: one module.</summary>
    Python,
}

/// <summary>A file of code.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Text">What stands in it.</param>
public sealed record BoardFile(string Name, string Text);

/// <summary>A name in the code, and what it is on the rig.</summary>
/// <param name="Code">As the code says it.</param>
/// <param name="Number">Its number on the board; null for a program.</param>
/// <param name="Name">As people say it.</param>
/// <param name="Is">What it is.</param>
public sealed record BoardName(string Code, int? Number, string Name, string Is);

/// <summary>A number that is baked into the code.</summary>
/// <param name="Of">What it is the number of.</param>
/// <param name="Value">The number with its unit.</param>
/// <param name="Came">Chosen, guessed, calculated or measured.</param>
/// <param name="Source">Where it comes from, in words.</param>
public sealed record BoardNumber(string Of, string Value, Provenance Came, string Source);

/// <summary>Programs as code for a board.</summary>
/// <param name="Name">Name of the rig in the code.</param>
/// <param name="Language">The language.</param>
/// <param name="Files">The files, the one with the programs first.</param>
/// <param name="Names">Names in the code, with what they are.</param>
/// <param name="Numbers">Numbers that are baked in, and where each comes from.</param>
/// <param name="Cannot">What a board cannot know or do by itself, in sentences; empty for nothing.</param>
public sealed record BoardTaken(
    string Name,
    BoardLanguage Language,
    IReadOnlyList<BoardFile> Files,
    IReadOnlyList<BoardName> Names,
    IReadOnlyList<BoardNumber> Numbers,
    IReadOnlyList<string> Cannot
)
{
    /// <summary>What it takes on a board of 32 bits, counted; null in a language whose interpreter decides.</summary>
    public BoardSizes? Sizes { get; init; }
}

/// <summary>Writes programs of a copy as code for a board.</summary>
public static class BoardCode
{
    /// <summary>Most messages that are on their way between the programs of a board at once.</summary>
    public const int MostOnTheWay = 32;

    /// <summary>Takes programs out.</summary>
    /// <param name="copy">The copy whose numbers are baked in.</param>
    /// <param name="program">Which program; null for all that run.</param>
    /// <param name="language">The language.</param>
    /// <exception cref="InputProblem">When there is no such program, it has faults, or what is known of the copy does not do.</exception>
    public static BoardTaken Take(BoardCopy copy, int? program, BoardLanguage language) => Take(BoardRig.Of(copy, program), language);

    /// <summary>The same for programs that are ready.</summary>
    internal static BoardTaken Take(BoardRig rig, BoardLanguage language, int mostOnTheWay = MostOnTheWay)
    {
        var notes = new BoardNotes(rig);
        var file = rig.Name.ToLowerInvariant();
        var head = Head(rig, notes);
        var written = rig.Programs.Select(p => CppCode.Program(p, rig)).ToArray();
        // What changes is laid out as on a board whose pointers have four bytes.
        var sizes = new BoardSizes(
            written.Sum(w => w.Tables),
            State(rig, written.Select(w => w.State), mostOnTheWay, 4),
            rig.Programs.Max(p => BoardTables.DeepestStack(p.Script))
        );
        BoardFile[] files =
            language == BoardLanguage.Cpp
                ?
                [
                    new($"{file}.hpp", Cpp(rig, head, [.. written.Select(w => w.Text)], mostOnTheWay)),
                    new("trace_main.cpp", Filled("trace_main.cpp", rig, file)),
                    new("line_main.cpp", Filled("line_main.cpp", rig, file)),
                    new("README.txt", Read(rig, notes, language, file, sizes)),
                ]
                :
                [
                    new($"{file}.py", Python(rig, head, mostOnTheWay)),
                    new("trace_main.py", Filled("trace_main.py", rig, file)),
                    new("line_main.py", Filled("line_main.py", rig, file)),
                    new("README.txt", Read(rig, notes, language, file, sizes)),
                ];
        return new(rig.Name, language, files, notes.Names, notes.Numbers, notes.Cannot)
        {
            Sizes = language == BoardLanguage.Cpp ? sizes : null,
        };
    }

    /// <summary>Bytes of all that changes on a board.</summary>
    /// <param name="rig">The programs.</param>
    /// <param name="machines">How the state of each is laid out.</param>
    /// <param name="mostOnTheWay">Messages that may be on their way.</param>
    /// <param name="pointer">Bytes of a pointer.</param>
    private static int State(BoardRig rig, IEnumerable<Func<int, BoardLayout>> machines, int mostOnTheWay, int pointer)
    {
        var flight = new BoardLayout().Add(8).Add(4).Add(2).Add(1, 3).One(8, rig.MostTold);
        var all = new BoardLayout();
        foreach (var machine in machines)
            all.Add(new BoardLayout().Add(pointer)).Add(machine(pointer));
        return new BoardLayout()
            .Add(1)
            .Add(8)
            .Add(pointer)
            .Add(4, 3)
            .One(8, rig.Sensors.Count)
            .One(1, rig.Sensors.Count)
            .Add(flight, rig.IsNetwork ? mostOnTheWay : 1)
            .Add(all)
            .Size;
    }

    /// <summary>The same for programs that are ready, on a machine whose pointers have so many bytes; for tests.</summary>
    internal static int StateBytes(BoardRig rig, int pointer) =>
        State(rig, [.. rig.Programs.Select(p => CppCode.Program(p, rig).State)], MostOnTheWay, pointer);

    private static string Filled(string shipped, BoardRig rig, string file) =>
        BoardTables
            .Shipped(shipped)
            .Replace("@FILE@", file, StringComparison.Ordinal)
            .Replace("@RIG@", Literal(shipped, rig.Copy.Rig.Name), StringComparison.Ordinal)
            .Replace("@HOLDS@", Literal(shipped, rig.Copy.Holds), StringComparison.Ordinal)
            .Replace("@NAME@", rig.Name, StringComparison.Ordinal);

    private static string Literal(string file, string text) =>
        file.EndsWith(".py", StringComparison.Ordinal) ? PythonCode.Said(text) : CppCode.Said(text);

    private static string I(long n) => n.ToString(CultureInfo.InvariantCulture);

    // What stands at the top of the code: what it is, its numbers, its names, what a board cannot know, and the sentences.
    private static IEnumerable<string> Head(BoardRig rig, BoardNotes notes)
    {
        var of = rig.Programs.Count == 1 ? $"the program {rig.Programs[0].Name}" : $"its {Figures.Count(rig.Programs.Count, "program")}";
        var revision = rig.Copy.Revision == "" ? "" : $", {rig.Copy.Revision}";
        yield return $"{rig.Copy.Rig.Name}: {of}, for {rig.Copy.Copy}{revision}. Written by Chiton.";
        yield return "";
        yield return "Numbers that are baked in, and where each comes from:";
        foreach (var n in notes.Numbers)
            yield return $"  {n.Of}: {n.Value} ({n.Came.ToString().ToLowerInvariant()}: {n.Source})";
        if (notes.Numbers.Count == 0)
            yield return "  none";
        yield return "";
        yield return $"Names in the code (sensors stand in {rig.Name}_sensors, devices in {rig.Name}_devices):";
        foreach (var n in notes.Names)
            yield return $"  {n.Code}{(n.Number is { } i ? $" ({i})" : "")}: {n.Name}, {n.Is}";
        yield return "";
        yield return "What a board cannot know or do by itself:";
        foreach (var c in notes.Cannot.DefaultIfEmpty("nothing is missing"))
            yield return $"  {c}";
        foreach (var p in rig.Programs)
        {
            yield return "";
            yield return $"The sentences of {p.Name}:";
            foreach (var line in p.Text.ReplaceLineEndings("\n").TrimEnd().Split('\n'))
                yield return "  " + line.TrimEnd();
        }
    }

    private static string Commented(IEnumerable<string> lines, string mark) =>
        string.Concat(lines.Select(l => BoardTables.Comment(l) is "" ? $"{mark}\n" : $"{mark} {Margin(l)}{BoardTables.Comment(l)}\n"));

    private static string Margin(string line) => new(' ', line.Length - line.TrimStart().Length);

    // ---- C++ ----

    private static string Cpp(BoardRig rig, IEnumerable<string> head, IReadOnlyList<string> programs, int mostOnTheWay)
    {
        var text = new StringBuilder();
        text.Append(Commented(head, "//")).Append("#pragma once\n\n");
        text.Append(CppCode.Runtime).Append('\n').Append(BoardTables.Shipped("board.hpp")).Append('\n');
        foreach (var program in programs)
            text.Append(program).Append('\n');
        text.Append("namespace chiton {\n\n");
        Numbered(text, "_sensors", rig.Sensors.Select(s => s.Code));
        Numbered(text, "_devices", rig.Devices.Select(d => d.Code));
        text.Append(CultureInfo.InvariantCulture, $"struct {rig.Name} {{\n");
        void One(string type, string name, string value) =>
            text.Append(CultureInfo.InvariantCulture, $"  static constexpr {type} {name} = {value};\n");
        void Names(string name, IEnumerable<string> names) => text.Append(CppCode.Names(name, names));
        void Row(string type, string name, string argument, IEnumerable<string> values)
        {
            var all = string.Join(", ", values.DefaultIfEmpty("1"));
            text.Append(
                CultureInfo.InvariantCulture,
                $"  static {name}(int {argument}) {{\n    static constexpr {type} all[] = {{{all}}};\n"
            );
            text.Append(CultureInfo.InvariantCulture, $"    return all[{argument}];\n  }}\n");
        }
        One("int", "programs", I(rig.Programs.Count));
        One("int", "sensors", I(rig.Sensors.Count));
        One("int", "devices", I(rig.Devices.Count));
        One("int", "texts", I(rig.Texts.Count));
        One("int", "names", I(rig.Names.Count));
        One("int64_t", "message_micros", I(rig.MessageMicros));
        One("int", "most_on_the_way", I(mostOnTheWay));
        One("int", "most_told", I(rig.MostTold));
        One("bool", "network", rig.IsNetwork ? "true" : "false");
        One("bool", "tells", rig.Tells ? "true" : "false");
        One("bool", "hears", rig.Hears ? "true" : "false");
        Row("int32_t", "int64_t period", "sensor", rig.Sensors.Select(s => I(s.PeriodMicros)));
        Row("int8_t", "int width", "sensor", rig.Sensors.Select(s => I(s.Design.Facts.Width)));
        Names("sensor", rig.Sensors.Select(s => s.Name));
        Names("device", rig.Devices.Select(d => d.Name));
        Names("text", rig.Texts);
        Names("name", rig.Names);
        foreach (var (i, p) in rig.Programs.Index())
            text.Append(CultureInfo.InvariantCulture, $"  static {p.Code} pick(At<{i}>);\n");
        text.Append("  template <int I> using Of = decltype(pick(At<I>{}));\n");
        text.Append("  template <class Rig> struct Machines {\n");
        foreach (var (i, p) in rig.Programs.Index())
        {
            text.Append(CultureInfo.InvariantCulture, $"    Port<Rig, {p.Code}, {i}> port{i};\n");
            text.Append(CultureInfo.InvariantCulture, $"    Machine<{p.Code}, Port<Rig, {p.Code}, {i}>> m{i};\n");
        }
        var made = rig.Programs.Select((_, i) => $"port{i}{{rig}}, m{i}(port{i})");
        text.Append(CultureInfo.InvariantCulture, $"    explicit Machines(Rig &rig) : {string.Join(", ", made)} {{}}\n");
        text.Append("    template <class F> void each(F f) {\n");
        foreach (var (i, _) in rig.Programs.Index())
            text.Append(CultureInfo.InvariantCulture, $"      f(m{i}, At<{i}>{{}});\n");
        text.Append("    }\n  };\n};\n\n}  // namespace chiton\n");
        return text.ToString();

        void Numbered(StringBuilder to, string what, IEnumerable<string> names)
        {
            var all = names.Select((n, i) => $"{n} = {i}").ToArray();
            if (all.Length > 0)
                to.Append(
                    CultureInfo.InvariantCulture,
                    $"namespace {rig.Name}{what} {{\nenum : int {{ {string.Join(", ", all)} }};\n}}\n\n"
                );
        }
    }

    // ---- Python ----

    private static string Python(BoardRig rig, IEnumerable<string> head, int mostOnTheWay)
    {
        var text = new StringBuilder();
        text.Append(Commented(head, "#")).Append('\n');
        text.Append(PythonCode.Machine).Append(BoardTables.Shipped("board.py"));
        foreach (var p in rig.Programs)
            text.Append(PythonCode.Program(p, rig));
        void Numbered(string what, IEnumerable<string> names)
        {
            text.Append(CultureInfo.InvariantCulture, $"\n\nclass {rig.Name}_{what}:\n    count = {names.Count()}\n");
            foreach (var (i, n) in names.Index())
                text.Append(CultureInfo.InvariantCulture, $"    {n} = {i}\n");
        }
        Numbered("sensors", rig.Sensors.Select(s => s.Code));
        Numbered("devices", rig.Devices.Select(d => d.Code));
        text.Append(CultureInfo.InvariantCulture, $"\n\nclass {rig.Name}:\n");
        void One(string name, string value) => text.Append(CultureInfo.InvariantCulture, $"    {name} = {value}\n");
        One("programs", PythonCode.List(rig.Programs.Select(p => p.Code)));
        One("sensors", PythonCode.List(rig.Sensors.Select(s => PythonCode.Said(s.Name))));
        One("widths", PythonCode.List(rig.Sensors.Select(s => I(s.Design.Facts.Width))));
        One("periods", PythonCode.List(rig.Sensors.Select(s => I(s.PeriodMicros))));
        One("devices", PythonCode.List(rig.Devices.Select(d => PythonCode.Said(d.Name))));
        One("texts", PythonCode.List(rig.Texts.Select(PythonCode.Said)));
        One("names", PythonCode.List(rig.Names.Select(PythonCode.Said)));
        One("message_micros", I(rig.MessageMicros));
        One("most_on_the_way", I(mostOnTheWay));
        One("network", rig.IsNetwork ? "True" : "False");
        One("hears", rig.Hears ? "True" : "False");
        return text.ToString();
    }

    // ---- what to do with it ----

    private static string Read(BoardRig rig, BoardNotes notes, BoardLanguage language, string file, BoardSizes? sizes)
    {
        var text = new StringBuilder();
        foreach (var line in Head(rig, notes).TakeWhile(l => !l.StartsWith("The sentences of", StringComparison.Ordinal)))
            text.Append(line).Append('\n');
        text.Append(
            language == BoardLanguage.Cpp
                ? $"""
                Build the trace main on a computer and see what the program does, without a robot:

                  c++ -std=c++17 -O2 -Wall -Wextra -pedantic -ffp-contract=off -o trace trace_main.cpp
                  ./trace < trace.txt

                line_main.cpp runs it and speaks the line to the desk; what is yours stands at its top. Type “? start” to it:

                  c++ -std=c++17 -O2 -Wall -Wextra -pedantic -ffp-contract=off -o line line_main.cpp
                  ./line

                On your board: include {file}.hpp, fill in the five functions that are said at its top (read, act, micros, send,
                receive), call begin() once and step() again and again. Nothing waits and nothing takes memory.
                Of a board of 32 bits it takes {sizes!.TableBytes} bytes of tables that never change, {sizes.StateBytes} of state, and at
                most {sizes.StackBytes} of stack (counted), besides some 6 to 12 kB of code for a program, by what it uses.

                """
                : $"""
                See what the program does, without a robot:

                  python3 trace_main.py < trace.txt

                line_main.py runs it and speaks the line to the desk; what is yours stands at its top. Type “? start” to it:

                  python3 line_main.py

                On your board: import {file}, fill in the five functions that are said in it (read, act, micros, send, receive),
                call begin() once and step() again and again. Nothing waits.

                """
        );
        text.Append(
            """

            A trace is lines of words; a person can type it. Time is in microseconds since the start:

              r 12345678 Tag eye 41     a sensor reads: a number, three of a colour, - for nothing heard, lost for none, or a zone's name
              seed 7                    starts anew; what is random follows from it
              pass 12345678             time passes until then, and what is due happens
              at 12345678               it is that time, before anything that is due then
              done Trolley              a move has come to its end by itself
              stalls Mast               it stalls
              gives up Tongue           it gives up
              moved Trolley 120 0       how far it has come: mm, degrees
              tell Main go 3            a message from a program elsewhere: from whom, what, with what

            What is printed: the time at which something changes, what devices are told, and the states.

            """
        );
        return text.ToString();
    }
}
