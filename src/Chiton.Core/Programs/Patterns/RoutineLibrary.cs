using System.Text;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Patterns;

/// <summary>
/// A routine kept in the workshop's library. What it calls a device, zone, position, direction, program or variable stands
/// in its text as a mark, to be filled from whatever rig it is used in.
/// </summary>
/// <param name="Name">Its name.</param>
/// <param name="Note">What it is good for, in a sentence.</param>
/// <param name="From">Name of the rig it came from.</param>
/// <param name="Head">Variables and constants it needs, as lines; may be empty.</param>
/// <param name="Body">Its lines, with those of the routines it does.</param>
/// <param name="Holes">What is to be filled in.</param>
public sealed record KeptRoutine(string Name, string Note, string From, string Head, string Body, Sequence<KeptHole> Holes);

/// <summary>A name that a kept routine needs from a rig.</summary>
/// <param name="Id">Its mark.</param>
/// <param name="Was">What it was called.</param>
/// <param name="Kind">What fills it.</param>
/// <param name="Of">The hole it belongs to; null when to none.</param>
/// <param name="Like">What it must be like, such as <c>actuator Lamp</c>; empty when the kind says it all.</param>
public sealed record KeptHole(string Id, string Was, HoleKind Kind, string? Of, string Like);

/// <summary>Keeps routines for other rigs, and offers them as patterns.</summary>
public static class RoutineLibrary
{
    /// <summary>Most characters of a note.</summary>
    public const int LongestNote = 300;

    private const char Open = '\u2045',
        Close = '\u2046';

    /// <summary>Takes a routine out of a program, with the routines it does and the variables it needs.</summary>
    /// <param name="program">The program, without faults.</param>
    /// <param name="routine">Name of the routine.</param>
    /// <param name="rig">Names of the rig.</param>
    /// <param name="from">Name of the rig.</param>
    /// <param name="note">What it is good for.</param>
    /// <exception cref="InputProblem">When there is no such routine, or it speaks of what only its program has.</exception>
    public static KeptRoutine Keep(ProgramNode program, string routine, Vocabulary rig, string from, string note)
    {
        if (program.Routines.All(r => r.Name != routine))
            throw new InputProblem("routine", $"There is no routine “{routine}”.");
        if (note.Length > LongestNote)
            throw new InputProblem("note", $"A note has at most {LongestNote} characters.");
        var needed = new List<string> { routine };
        for (var i = 0; i < needed.Count; i++)
            foreach (var p in Lines(program.Routines.First(r => r.Name == needed[i])).SelectMany(l => Pairs(l.Pieces)))
                if (
                    p.Before.EndsWith("do ", StringComparison.Ordinal)
                    && p.Piece.Kind == PieceKind.Device
                    && !needed.Contains(p.Piece.Text)
                )
                    needed.Add(p.Piece.Text);
        var routines = program.Routines.Where(r => needed.Contains(r.Name)).ToArray();
        // Variables that are not parameters come along, and whatever their first values speak of.
        var heads = new List<HeadNode>();
        var wanted = new Queue<string>(
            routines.SelectMany(r =>
                Lines(r)
                    .SelectMany(l => l.Pieces)
                    .Where(p => p.Kind == PieceKind.Variable && !r.Parameters.Contains(p.Text))
                    .Select(p => p.Text)
            )
        );
        while (wanted.TryDequeue(out var name))
        {
            if (
                program.Head.FirstOrDefault(h => h is VarNode v && v.Name == name || h is ConstNode c && c.Name == name) is not { } head
                || heads.Contains(head)
            )
                continue;
            heads.Add(head);
            foreach (var p in Printer.Pieces(head).Where(p => p.Kind == PieceKind.Variable))
                wanted.Enqueue(p.Text);
        }
        heads = [.. program.Head.Where(heads.Contains)];
        var names = heads.Select(h => h is VarNode v ? v.Name : ((ConstNode)h).Name).ToHashSet();
        var regions = routines
            .SelectMany(r => r.Regions)
            .Select(r => r.Name)
            .Concat(routines.SelectMany(r => r.Regions).SelectMany(r => r.AllStates).SelectMany(s => s.Regions).Select(r => r.Name))
            .ToHashSet();
        var marker = new Marker(rig, names, needed, regions);
        var head2 = string.Join('\n', heads.SelectMany(h => h.Comments.Select(Comment).Append(marker.Write(Printer.Pieces(h), []))));
        var body = new StringBuilder();
        foreach (var r in routines)
        {
            if (body.Length > 0)
                body.Append('\n');
            foreach (var line in Lines(r))
            {
                if (line.Gap)
                    body.Append('\n');
                foreach (var c in line.Comments)
                    body.Append(' ', line.Indent).Append(Comment(c)).Append('\n');
                body.Append(' ', line.Indent).Append(marker.Write(line.Pieces, r.Parameters)).Append('\n');
            }
        }
        return new(routine, note.Trim(), from, head2, body.ToString().TrimEnd('\n'), marker.Holes.ToSequence());
    }

    private static string Comment(string text) => text == "" ? "#" : "# " + text;

    private readonly record struct Printed(int Indent, IReadOnlyList<Piece> Pieces, Sequence<string> Comments, bool Gap);

    // A routine line by line, as the printer sets it.
    private static IEnumerable<Printed> Lines(RoutineNode routine)
    {
        yield return new(0, Printer.Pieces(routine), routine.Comments, false);
        foreach (var region in routine.Regions)
        foreach (var line in region.Name == "" ? States(region.States, 2) : Region(region, 2))
            yield return line;
    }

    private static IEnumerable<Printed> Region(RegionNode region, int indent)
    {
        yield return new(indent, [new("region ", PieceKind.Word), new(region.Name, PieceKind.Name)], region.Comments, true);
        foreach (var line in States(region.States, indent + 2))
            yield return line;
    }

    private static IEnumerable<Printed> States(IEnumerable<StateNode> states, int indent)
    {
        var first = true;
        foreach (var state in states)
        {
            yield return new(indent, Printer.Pieces(state), state.Comments, !first);
            first = false;
            foreach (var l in state.Lines)
                yield return new(indent + 2, Printer.Pieces(l), l.Comments, false);
            foreach (var h in state.Histories)
                yield return new(indent + 2, Printer.Pieces(h), h.Comments, false);
            foreach (var line in States(state.States, indent + 2).Select((l, i) => i == 0 ? l with { Gap = true } : l))
                yield return line;
            foreach (var r in state.Regions)
            foreach (var line in Region(r, indent + 2))
                yield return line;
        }
    }

    private static IEnumerable<(string Before, Piece Piece)> Pairs(IReadOnlyList<Piece> pieces)
    {
        for (var i = 0; i < pieces.Count; i++)
            yield return (i == 0 ? "" : pieces[i - 1].Text, pieces[i]);
    }

    private sealed class Marker(Vocabulary rig, HashSet<string> variables, List<string> routines, HashSet<string> regions)
    {
        public List<KeptHole> Holes { get; } = [];

        public string Write(IReadOnlyList<Piece> pieces, Sequence<string> parameters)
        {
            var text = new StringBuilder();
            string? device = null;
            foreach (var (before, piece) in Pairs(pieces))
            {
                switch (piece.Kind)
                {
                    case PieceKind.Device when before.EndsWith("do ", StringComparison.Ordinal) && routines.Contains(piece.Text):
                    case PieceKind.Name when before == "routine " && routines.Contains(piece.Text):
                    case PieceKind.Name when before is "var " or "const ":
                    case PieceKind.Variable when variables.Contains(piece.Text) && !parameters.Contains(piece.Text):
                        text.Append(Open).Append('=').Append(piece.Text).Append(Close);
                        break;
                    case PieceKind.Device:
                        device = piece.Text;
                        text.Append(Mark(Device(piece.Text, pieces)));
                        break;
                    case PieceKind.Zone:
                        // The sensor it belongs to stands before it, or behind a sign.
                        var sensor =
                            rig.Sensors.FirstOrDefault(s => s.Name == device && s.Zones.Contains(piece.Text))
                            ?? rig.Sensors.FirstOrDefault(s =>
                                s.Zones.Contains(piece.Text) && pieces.Any(p => p.Kind == PieceKind.Device && p.Text == s.Name)
                            );
                        text.Append(sensor is null ? piece.Text : Mark(Of(piece.Text, HoleKind.Zone, sensor.Name, pieces)));
                        break;
                    case PieceKind.Place when device is not null:
                        text.Append(
                            Mark(
                                Of(
                                    piece.Text,
                                    rig.Mechanisms.Any(m => m.Name == device && m.Positions.Contains(piece.Text))
                                        ? HoleKind.Position
                                        : HoleKind.Direction,
                                    device,
                                    pieces
                                )
                            )
                        );
                        break;
                    case PieceKind.Name when pieces.Any(p => p.Text == " is in ") && !regions.Contains(piece.Text):
                        throw new InputProblem(
                            "routine",
                            $"It speaks of “{piece.Text}”, a region of its program, which other rigs do not have."
                        );
                    default:
                        text.Append(piece.Text);
                        break;
                }
            }
            return text.ToString();
        }

        private static string Mark(KeptHole hole) => $"{Open}{hole.Id}{Close}";

        private KeptHole Of(string name, HoleKind kind, string device, IReadOnlyList<Piece> pieces)
        {
            var owner = Device(device, pieces);
            var found = Holes.FirstOrDefault(h => h.Was == name && h.Kind == kind && h.Of == owner.Id);
            if (found is null)
                Holes.Add(found = new($"h{Holes.Count + 1}", name, kind, owner.Id, ""));
            return found;
        }

        private KeptHole Device(string name, IReadOnlyList<Piece> pieces)
        {
            var found = Holes.FirstOrDefault(h => h.Was == name && h.Of is null);
            if (found is not null)
                return found;
            var (kind, like) = (HoleKind.Program, "");
            if (rig.Sensors.FirstOrDefault(s => s.Name == name) is { } sensor)
                kind =
                    sensor.Switch ? HoleKind.Button
                    : sensor.Reads == Dimension.Length ? HoleKind.Range
                    : HoleKind.Eye;
            else if (rig.Mechanisms.FirstOrDefault(m => m.Name == name) is { } mechanism)
                (kind, like) = mechanism.Going == Going.Steered ? (HoleKind.Drive, "") : (HoleKind.Like, $"mechanism {mechanism.Motor}");
            else if (rig.Actuators.FirstOrDefault(a => a.Name == name) is { } actuator)
                (kind, like) = (HoleKind.Like, $"actuator {actuator.Kind}");
            Holes.Add(found = new($"h{Holes.Count + 1}", name, kind, null, like));
            return found;
        }
    }

    /// <summary>A kept routine as a pattern: its names are the holes.</summary>
    /// <param name="kept">The routine.</param>
    /// <param name="id">Its address in the library.</param>
    public static Pattern AsPattern(KeptRoutine kept, string id) =>
        new(
            id,
            0,
            kept.Name,
            kept.Note == "" ? $"A routine kept from {kept.From}." : kept.Note,
            $"It was made for {kept.From}: its times and speeds were right there, so measure them again here.",
            "",
            [
                .. kept.Holes.Select(h => new Hole(h.Id, Label(h), h.Kind)
                {
                    Of = h.Of,
                    Default = h.Was,
                    Like = h.Like,
                }),
            ],
            [],
            f => new(Fill(kept.Head, f), Fill(kept.Body, f))
        );

    private static string Label(KeptHole hole) =>
        hole.Kind switch
        {
            HoleKind.Zone => $"the zone “{hole.Was}”",
            HoleKind.Position => $"the position “{hole.Was}”",
            HoleKind.Direction => $"the direction “{hole.Was}”",
            HoleKind.Program => $"the program “{hole.Was}”",
            _ => $"what was “{hole.Was}”",
        };

    // Marks are filled one after the other; what stands between them stays.
    private static string Fill(string text, PatternFill fill)
    {
        var made = new StringBuilder();
        for (var at = 0; at < text.Length; )
        {
            var open = text.IndexOf(Open, at);
            var close = open < 0 ? -1 : text.IndexOf(Close, open);
            if (close < 0)
                return made.Append(text, at, text.Length - at).ToString();
            var mark = text[(open + 1)..close];
            made.Append(text, at, open - at).Append(mark.StartsWith('=') ? fill.N(mark[1..]) : fill[mark]);
            at = close + 1;
        }
        return made.ToString();
    }
}
