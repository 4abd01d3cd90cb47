using Chiton.Core.Programs.Outside;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Lines;
using Chiton.Server.App.Room;

namespace Chiton.Server.Parts;

/// <summary>The line of a copy as it is now.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Real">True for a copy on a table.</param>
/// <param name="To">Where it is joined to; empty where it is on no line.</param>
/// <param name="Standing">none, joining, joined or out.</param>
/// <param name="ForS">For how long it is so, s.</param>
/// <param name="Say">How it stands, in a sentence.</param>
/// <param name="Joins">How often somebody answered anew.</param>
/// <param name="Name">What answers calls itself; empty before its hello.</param>
/// <param name="StandIn">True when a box that stands in for a real thing answers.</param>
/// <param name="HoldsThis">True when it runs what is here; false when it does not; null when it does not say.</param>
/// <param name="Holding">What it runs, in a sentence; empty while nobody answers.</param>
/// <param name="Volts">What its pack gives, V; null while it has not said.</param>
/// <param name="Sensors">Its sensors.</param>
/// <param name="Missing">Sensors of the rig that it does not have.</param>
/// <param name="Programs">Where its programs are.</param>
/// <param name="Running">True while a run goes on.</param>
/// <param name="Lines">Lines that came.</param>
/// <param name="Strange">Lines that nobody understood.</param>
/// <param name="Unread">The latest of them.</param>
/// <param name="Complaints">What it says and cannot be.</param>
/// <param name="Refused">What it refused last, in its words; empty for nothing.</param>
public sealed record OutsideLine(
    int Copy,
    bool Real,
    string To,
    string Standing,
    double ForS,
    string Say,
    int Joins,
    string Name,
    bool StandIn,
    bool? HoldsThis,
    string Holding,
    double? Volts,
    IReadOnlyList<BoxSensor> Sensors,
    IReadOnlyList<string> Missing,
    IReadOnlyList<LineProgram> Programs,
    bool Running,
    long Lines,
    long Strange,
    IReadOnlyList<BoxUnread> Unread,
    IReadOnlyList<LineComplaint> Complaints,
    string Refused
)
{
    /// <summary>Of a copy.</summary>
    /// <param name="state">The copy.</param>
    /// <param name="line">Its line; null where it is on none.</param>
    internal static OutsideLine Of(RigState state, Line? line)
    {
        var real = state.Unit.Kind == UnitKind.Real;
        if (line is null)
            return new(
                state.Copy,
                real,
                "",
                "none",
                0,
                real ? "This copy is on no line." : "This copy is a stand-in in here: it has no plug. A copy on a table has one.",
                0,
                "",
                false,
                null,
                "",
                null,
                [],
                [],
                [],
                false,
                0,
                0,
                [],
                [],
                ""
            );
        var now = line.Now;
        return line.Look(
            (w, runs) =>
            {
                var joined = now.Standing == LineStanding.Joined;
                var (same, holding) = BoxHolding.Against(w.Holds, BoxHolding.Of(state.Revision, state.ToSend));
                var sensors = w.Sensors;
                return new OutsideLine(
                    state.Copy,
                    real,
                    now.To,
                    now.Standing.ToString().ToLowerInvariant(),
                    Math.Round(now.ForS, 1),
                    now.Standing switch
                    {
                        LineStanding.Joined =>
                            $"{w.Hello?.Name} answers at {now.To}{(w.Hello?.StandIn == true ? ": a box that stands in for it" : "")}.",
                        LineStanding.Joining => now.Say == "" ? $"Nobody has answered at {now.To} yet." : now.Say,
                        _ => $"{now.Say} It is tried again and joins by itself. What was recorded is kept.",
                    },
                    now.Joins,
                    w.Hello?.Name ?? "",
                    w.Hello?.StandIn == true,
                    joined ? same : null,
                    joined ? holding : "",
                    joined ? w.Volts : null,
                    sensors,
                    joined ? [.. sensors.Where(s => s.Known && s.PeriodMs is null).Select(s => s.Name)] : [],
                    joined ? [.. w.States.Select(s => new LineProgram(s.Key, s.Value == "-" ? "" : s.Value))] : [],
                    joined && runs.Going,
                    w.Lines,
                    w.Strange,
                    w.Unread,
                    [.. w.Complaints.Select(c => new LineComplaint(c.Say, c.Times, Math.Round((w.NowMicros - c.AtMicros) * 1e-6, 1)))],
                    w.Refused
                );
            }
        );
    }
}

/// <summary>Something that a board says and that cannot be.</summary>
/// <param name="Say">What, in a sentence.</param>
/// <param name="Times">How often.</param>
/// <param name="AgoS">How long ago last, s.</param>
public sealed record LineComplaint(string Say, int Times, double AgoS);

/// <summary>Where a program on a board is.</summary>
/// <param name="Program">The program.</param>
/// <param name="State">Its states; empty where it runs no more.</param>
public sealed record LineProgram(string Program, string State);

/// <summary>Serial ports of the machine that Chiton runs on.</summary>
public sealed record LinePorts(IReadOnlyList<string> Names);

/// <summary>Joins a real copy to a line.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="To">A serial port by its system name, or an address and its port.</param>
public sealed record JoinLineRequest(int? Copy, string? To);

/// <summary>Says a line as it is typed.</summary>
/// <param name="Copy">Copy number.</param>
/// <param name="Line">The line.</param>
public sealed record SayLineRequest(int? Copy, string? Line);

/// <summary>What a board answered.</summary>
/// <param name="Say">In a sentence.</param>
/// <param name="Line">The line of the copy as it is now.</param>
public sealed record LineAnswer(string Say, OutsideLine Line);

/// <summary>A run that was seen over a line and is none.</summary>
public sealed record DropRunRequest(string? Key);

/// <summary>Lines to real things: joined at the desk alone.</summary>
public static class LineEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/ports", (SerialPorts ports) => new LinePorts(ports.Names())).WithName("listLinePorts").WithTags("Line");
        var line = api.MapGroup("/rigs/{id}/line").WithTags("Line");
        line.MapGet(
                "",
                async Task<OutsideLine> (string id, int? copy, RigStore store, Lines lines, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, copy, null, cancel);
                    return OutsideLine.Of(state, lines.Of(id, state.Copy));
                }
            )
            .WithName("getLine")
            .ProducesProblem(404);
        line.MapPut(
                "",
                async Task<OutsideLine> (string id, JoinLineRequest request, RigStore store, Lines lines, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, request.Copy, null, cancel);
                    await lines.Join(state, request.To, store, cancel);
                    return OutsideLine.Of(state, lines.Of(id, state.Copy));
                }
            )
            .WithName("joinLine")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        line.MapDelete(
                "",
                async Task<OutsideLine> (string id, int? copy, RigStore store, Lines lines, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, copy, null, cancel);
                    await lines.Leave(id, state.Copy, store, cancel);
                    return OutsideLine.Of(state, lines.Of(id, state.Copy));
                }
            )
            .WithName("leaveLine")
            .ProducesProblem(404);
        line.MapPost("/say", Say).WithName("sayLine").ProducesValidationProblem().ProducesProblem(404);
        line.MapPost(
                "/start",
                (string id, CopyRequest request, RigStore store, Lines lines, CancellationToken cancel) =>
                    Ask(id, request.Copy, "start", "It runs.", store, lines, cancel)
            )
            .WithName("startOnLine")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        line.MapPost(
                "/stop",
                (string id, CopyRequest request, RigStore store, Lines lines, CancellationToken cancel) =>
                    Ask(id, request.Copy, "stop", "It was stopped.", store, lines, cancel)
            )
            .WithName("stopOnLine")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        line.MapPost(
                "/drop",
                async (string id, DropRunRequest request, RigStore store, CancellationToken cancel) =>
                {
                    await store.Lines.Drop(id, request.Key ?? "", cancel);
                    return Results.NoContent();
                }
            )
            .WithName("dropLineRun")
            .Produces(204)
            .ProducesProblem(404);
    }

    private static async Task<LineAnswer> Ask(
        string id,
        int? copy,
        string words,
        string done,
        RigStore store,
        Lines lines,
        CancellationToken cancel
    )
    {
        var state = await store.Load(id, copy, null, cancel);
        return await Told(state, lines, new BoxAsk(words), done, cancel);
    }

    private static async Task<LineAnswer> Told(RigState state, Lines lines, BoxMessage message, string done, CancellationToken cancel)
    {
        var line = lines.Joined(state);
        string? no;
        try
        {
            no = await line.Say(message, cancel);
        }
        catch (LineBroke e)
        {
            throw new InputProblem("copy", e.Message);
        }
        return new(no is null ? done : $"It answers no. {no}", OutsideLine.Of(state, line));
    }

    private static async Task<LineAnswer> Say(string id, SayLineRequest request, RigStore store, Lines lines, CancellationToken cancel)
    {
        var state = await store.Load(id, request.Copy, null, cancel);
        var names = lines.Joined(state).Look((w, _) => w.Names);
        var typed = request.Line?.Trim() ?? "";
        var message = BoxLine.Read(typed, names);
        return message switch
        {
            BoxAsk or BoxTell or BoxQuiet or BoxOrder => await Told(state, lines, message, $"“{typed}”: ok.", cancel),
            BoxStrange strange => throw new InputProblem("line", strange.Why),
            _ => throw new InputProblem("line", "That is for a board to say. From here go: ?, tell, quiet and do."),
        };
    }
}
