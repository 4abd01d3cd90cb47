using System.Collections.Concurrent;
using Chiton.Core.Checking;
using Chiton.Core.Classroom;
using Chiton.Core.Quantities;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;

namespace Chiton.Server.Parts;

/// <summary>The board: a line a team, of what each is doing and who waits.</summary>
public static class RoomBoard
{
    // What was found out about a rig is the same until something of it changes.
    private sealed record Known(bool? Holds, string Finding, bool Unsettled);

    private static readonly ConcurrentDictionary<string, Known> Lines = new();

    /// <summary>The board as it is now.</summary>
    internal static async Task<BoardView> View(
        string? order,
        RoomKeeper room,
        ClassStore classes,
        LessonStore lessons,
        RigStore rigs,
        RateKeeper keeper,
        Presence presence,
        TimeProvider clock,
        CancellationToken cancel
    )
    {
        var by = order switch
        {
            null or "seat" => BoardOrder.Seat,
            "stuck" => BoardOrder.Stuck,
            _ => throw new InputProblem("order", "Must be seat or stuck."),
        };
        if (room.Open is not { } open)
            throw new NotStored("The room is closed. Open it on the page Class.");
        var now = clock.GetUtcNow().UtcDateTime;
        var teams = (await classes.Teams(open.Class, cancel)).ToDictionary(t => t.Id);
        var listed = (await rigs.ListOf(open.Class, cancel)).ToLookup(r => r.Rig.TeamId!.Value);
        var given = (await lessons.OfClass(open.Class, cancel)).ToLookup(a => a.Row.TeamId);
        var handed = (await lessons.HandInsOf(open.Class, cancel)).ToLookup(h => h.AssignmentId);
        var changed = await classes.Changed(open.Class, cancel);
        DateTime When(ListedRig r) => changed.TryGetValue(r.Rig.Id, out var at) && at > r.Rig.CreatedUtc ? at : r.Rig.CreatedUtc;
        // Where a team has several rigs, it works on the one that it changed last.
        var works = teams.Keys.ToDictionary(t => t, t => listed[t].MaxBy(When));
        var places = teams.Values.Select(t => new BoardTeam(
            t.Id,
            t.Name,
            t.Table,
            t.HandUpUtc,
            works[t.Id] is { } rig && changed.TryGetValue(rig.Rig.Id, out var at) ? at : null,
            works[t.Id]?.Rig.CreatedUtc ?? t.CreatedUtc
        ));
        var lines = new List<BoardLine>();
        foreach (var place in Board.Order(places, by))
        {
            var (team, rig) = (teams[place.Team], works[place.Team]);
            var copy = rig?.Copies[^1];
            var rate = rig is null ? null : Rates.Listed(rig.Design, rig.Rig.HeadRevision, copy!);
            if (rate?.State == "counting")
                keeper.Ask(rig!.Rig.Id, copy!.Number);
            var at = given[team.Id].LastOrDefault(a => a.Row.RigId == rig?.Rig.Id) ?? given[team.Id].LastOrDefault();
            var known = rig is null ? new(null, "No rig yet", false) : await Of(rig, copy!, rigs, cancel);
            lines.Add(
                new(
                    team.Id,
                    team.Name,
                    team.Table,
                    JoinCode.Show(team.Code),
                    rig?.Rig.Id,
                    rig?.Design.Design.Name ?? "",
                    presence.PartOf(team.Id) ?? "",
                    rate?.Say ?? "",
                    rate?.Likely ?? "",
                    known.Holds,
                    known.Finding,
                    known.Unsettled,
                    place.Unchanged(now),
                    team.HandUpUtc is { } up ? Math.Max(0, (int)(now - up).TotalMinutes) : null,
                    presence.PagesOf(team.Id),
                    at?.Lesson.Name ?? "",
                    at is null ? "" : Say(at, handed[at.Row.Id].Count(), now)
                )
            );
        }
        return new(by, lines);
    }

    private static string Say(Assignment at, int handedIn, DateTime now)
    {
        var since = (int)(now - at.Row.TimeUtc).TotalMinutes;
        string[] said =
        [
            .. handedIn > 0 ? [handedIn == 1 ? "handed in" : $"handed in {handedIn} times"] : Array.Empty<string>(),
            .. at.Row.Hints > 0 ? [Figures.Count(at.Row.Hints, "hint")] : Array.Empty<string>(),
            .. since > at.Lesson.Minutes ? [$"{since - at.Lesson.Minutes} min over"] : Array.Empty<string>(),
        ];
        return string.Join(", ", said);
    }

    private static async Task<Known> Of(ListedRig rig, ListedCopy copy, RigStore rigs, CancellationToken cancel)
    {
        var key =
            $"{copy.Stamp} {Trying.Of(copy.Stamp)?.Version} {rig.Rig.HeadRevision} "
            + await rigs.Copies.SettledStamp(rig.Rig.Id, copy.Number, cancel);
        if (Lines.TryGetValue(key, out var known))
            return known;
        var state = await rigs.Load(rig.Rig.Id, copy.Number, null, cancel);
        bool? holds = state.Unit.HeldRig is null ? null : state.HoldsThis;
        var readable = !Rates.Empty(state.Parsed) && state.Parsed.Diagnostics.Count == 0;
        known =
            Rates.Empty(state.Parsed) ? new(holds, "Nothing written yet", false)
            : !readable ? new(holds, state.Parsed.Diagnostics[0].Message, true)
            : state.Open is not { } open ? new(holds, "Not looked at yet", false)
            : open.FirstOrDefault(f => f.Severity is Severity.Stops or Severity.Risky) is { } first ? new(holds, first.Headline, true)
            // What was not looked at to the end is no "nothing".
            : state.Report().Looked is { } looked && looked.All(l => l.State != LookedState.NotYet) ? new(holds, "Nothing to settle", false)
            : new(holds, "Nothing found so far", false);
        if (Lines.Count > 1000)
            Lines.Clear();
        return Lines[key] = known;
    }
}
