using Chiton.Core.Classroom;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Room;

namespace Chiton.Server.Parts;

/// <summary>Lessons of teams: handed out, worked on, handed in and marked.</summary>
public static class LessonEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var room = api.MapGroup("/classes/{id:long}").WithTags("Class");
        room.MapGet("/lessons", OfClass).WithName("listClassLessons").ProducesProblem(404);
        room.MapPost("/lessons", HandOut).WithName("handOutLesson").ProducesValidationProblem().ProducesProblem(404);
        room.MapGet("/changes", Changes).WithName("getChangesToOffer").ProducesValidationProblem().ProducesProblem(404);
        room.MapPost("/changes", Offer).WithName("offerChange").ProducesValidationProblem().ProducesProblem(404);
        api.MapGet("/me/lessons", Mine).WithTags("Class").WithName("getMyLessons").ProducesProblem(404);
        var lesson = api.MapGroup("/lessons/{assignment:long}").WithTags("Class");
        lesson.MapGet("", One).WithName("getLesson").ProducesProblem(404);
        lesson.MapPost("/hint", Hint).WithName("openHint").ProducesValidationProblem().ProducesProblem(404);
        lesson.MapPost("/rig", Choose).WithName("chooseRig").ProducesValidationProblem().ProducesProblem(404);
        lesson.MapPost("/hand-in", HandIn).WithName("handIn").ProducesValidationProblem().ProducesProblem(404);
        api.MapPut("/hand-ins/{handIn:long}/marks", Mark)
            .WithTags("Class")
            .WithName("mark")
            .ProducesValidationProblem()
            .ProducesProblem(404);
        api.MapPost("/offers/{offer:long}", Decide)
            .WithTags("Class")
            .WithName("decideOffer")
            .ProducesValidationProblem()
            .ProducesProblem(404);
    }

    // What is known of the rigs of lessons, read for all of them at once.
    private sealed record Known(IReadOnlyDictionary<string, ListedRig> Rigs, ILookup<string, bool> Table);

    private static async Task<Known> Read(IEnumerable<Assignment> given, RigStore rigs, CancellationToken cancel)
    {
        string[] ids = [.. given.Select(a => a.Row.RigId).OfType<string>().Distinct()];
        return new((await rigs.ListSome(ids, cancel)).ToDictionary(r => r.Rig.Id), await rigs.Log.Outcomes(ids, cancel));
    }

    private static LessonProgress Of(Assignment at, Known known, int handedIn, RateKeeper keeper)
    {
        if (at.Row.RigId is not { } id || !known.Rigs.TryGetValue(id, out var rig))
            return LessonProgress.NoRig;
        var rate = Rates.Listed(rig.Design, rig.Rig.HeadRevision, rig.Copies[^1]);
        if (rate.State == "counting")
            keeper.Ask(id, rig.Copies[^1].Number);
        return Of(at, rate, [.. known.Table[id]], handedIn);
    }

    private static LessonProgress Of(Assignment at, HeaderRate rate, IReadOnlyCollection<bool> table, int handedIn) =>
        LessonProgress.Of(
            at.Lesson.Done,
            rate.State == "known" ? (rate.Passes, rate.Runs) : null,
            rate.State is "known" or "counting" ? null : rate.Say,
            table,
            handedIn
        );

    private static async Task<LessonOfTeam> View(
        Assignment at,
        TeamRow team,
        IReadOnlyList<HandInRow> handed,
        IReadOnlyList<OfferRow> offers,
        Known known,
        LessonNeeds by,
        CancellationToken cancel
    )
    {
        var mine = handed.Where(h => h.AssignmentId == at.Row.Id).ToArray();
        var progress = Of(at, known, mine.Length, by.Keeper);
        var design = at.Row.RigId is { } id && known.Rigs.TryGetValue(id, out var listed) ? listed.Design.Design : null;
        var shown = at.Lesson.ForTeam(at.Row.Hints);
        var own = new List<RigName>();
        if (shown.Rig == "")
            foreach (var rig in (await by.Classes.Rigs(team.ClassId, cancel)).Where(r => r.Team == team.Id))
                own.Add(new(rig.Id, (await by.Rigs.Designs.DesignNow(rig.Id, cancel)).Name));
        return new(
            at.Row.Id,
            shown.Name,
            team.Name,
            shown.Task,
            shown.Minutes,
            shown.Done.Say(shown.Scene),
            shown.Done.Kind == DoneKind.Answer ? shown.Done.Question : "",
            progress.Met,
            progress.Say,
            at.Row.RigId,
            design?.Name ?? "",
            shown.Rig == "",
            own,
            shown.Start switch
            {
                StartKind.Empty => "Its program is empty: you write it.",
                StartKind.Gaps => "Sentences of its program are missing.",
                StartKind.Fault => "One sentence of its program was made wrong.",
                _ => "",
            },
            LeavesOut(shown.Offered),
            shown.Hints,
            at.Lesson.Hints.Count - shown.Hints.Count,
            shown.Walks,
            shown.Rubric,
            design is null ? null : await Different(at.Row.RigId!, design, by.Rigs, cancel),
            [.. mine.Select(h => HandInView.Of(h, by.Caller.Who == Who.Team))],
            [
                .. offers
                    .Where(o => o.State == OfferState.Open && (o.AssignmentId == at.Row.Id || o.RigId != null && o.RigId == at.Row.RigId))
                    .Select(View),
            ]
        );
    }

    private static OfferView View(OfferRow o) => new(o.Id, o.Say, o.RigId, DateTime.SpecifyKind(o.TimeUtc, DateTimeKind.Utc));

    // What was handed out is the rig's first revision.
    private static async Task<int> Different(string rig, RigDesign now, RigStore rigs, CancellationToken cancel) =>
        ProgramDifference.Between(await rigs.Designs.DesignOf(rig, 1, cancel), now).Count;

    private static IReadOnlyList<string> LeavesOut(Offered offered)
    {
        IEnumerable<string> Missing(IReadOnlyList<string>? has, IReadOnlyList<SentenceKind> all) =>
            has is null ? [] : all.Where(k => !has.Contains(k.Key)).Select(k => k.Words);
        string[] said =
        [
            .. Missing(offered.Triggers, SentenceKinds.Triggers),
            .. Missing(offered.Actions, SentenceKinds.Actions),
            .. offered.Regions ? Array.Empty<string>() : ["Several regions"],
            .. offered.Routines ? Array.Empty<string>() : ["Routines"],
        ];
        return said;
    }

    private static async Task<LessonsOfTeam> Mine(LessonNeeds by, CancellationToken cancel)
    {
        if (by.Caller.Team is not { } id)
            throw new NotStored("Only a team has lessons of its own. Those of a class stand on its page.");
        var team = await by.Classes.Team(id, cancel);
        var (handed, offers) = (await by.Lessons.HandIns(id, cancel), await by.Lessons.Offers(id, cancel));
        var views = new List<LessonOfTeam>();
        var given = await by.Lessons.Of(id, cancel);
        var known = await Read(given, by.Rigs, cancel);
        foreach (var at in given)
            views.Add(await View(at, team, handed, offers, known, by, cancel));
        return new(
            views,
            [
                .. offers
                    .Where(o => o.State == OfferState.Open && o.AssignmentId is null && given.All(a => a.Row.RigId != o.RigId))
                    .Select(View),
            ]
        );
    }

    private static async Task<LessonOfTeam> One(long assignment, LessonNeeds by, CancellationToken cancel)
    {
        var at = await by.Lessons.One(assignment, cancel);
        var team = at.Row.TeamId;
        return await View(
            at,
            await by.Classes.Team(team, cancel),
            await by.Lessons.HandIns(team, cancel),
            await by.Lessons.Offers(team, cancel),
            await Read([at], by.Rigs, cancel),
            by,
            cancel
        );
    }

    private static async Task<LessonOfTeam> Hint(long assignment, HintRequest request, LessonNeeds by, CancellationToken cancel) =>
        await Changed(await by.Lessons.OpenHint(assignment, request.Number, cancel), by, cancel);

    private static async Task<LessonOfTeam> Choose(long assignment, ChooseRig request, LessonNeeds by, CancellationToken cancel) =>
        await Changed(await by.Lessons.Choose(assignment, request.Rig ?? "", cancel), by, cancel);

    private static async Task<LessonOfTeam> Changed(AssignmentRow row, LessonNeeds by, CancellationToken cancel)
    {
        await by.Tell.Team(row.TeamId);
        return await One(row.Id, by, cancel);
    }

    private static async Task<HandInView> HandIn(
        long assignment,
        HandInRequest request,
        Caller caller,
        LessonStore lessons,
        RigStore rigs,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        var at = await lessons.One(assignment, cancel);
        var says = request.Says?.Trim() ?? "";
        var need = new Require();
        var asked = at.Lesson.Done.Kind == DoneKind.Answer;
        need.That(
            says.Length <= Marking.MostSaid && (says.Length > 0 || !asked),
            "says",
            asked ? $"Write the answer, in at most {Marking.MostSaid} letters." : $"At most {Marking.MostSaid} letters."
        );
        need.That(at.Row.RigId is not null, "rig", "Choose a rig of your own first.");
        need.Done();
        var rig = at.Row.RigId!;
        var state = await rigs.Load(rig, request.Copy ?? (await rigs.Copies.Copies(rig, cancel))[^1].Number, null, cancel);
        var all = await rigs.Log.Lines(rig, null, cancel);
        var progress = Of(at, await Rates.Of(state, rigs, cancel), [.. all.Select(l => l.Passed)], 1);
        var proof = await rigs.Runs.Gauge(state, cancel);
        var lines = all.Where(l => l.Copy == state.Copy).ToArray();
        var known = new HandedIn(
            state.Design.Name,
            Units.Word(state.Unit.Kind),
            [.. state.CalibrationRows.Values.OrderBy(c => c.Sensor, StringComparer.Ordinal).Select(c => $"{c.Sensor} {c.Version}")],
            proof?.Id,
            proof?.Scene ?? "",
            proof?.Runs ?? 0,
            proof?.Passes ?? 0,
            proof?.Low ?? 0,
            proof?.High ?? 1,
            lines.Length,
            lines.Count(l => l.Passed),
            lines.Length == 0 ? "" : Last(lines[^1], lines.Length),
            at.Row.Hints,
            await Different(rig, state.Design, rigs, cancel),
            progress.Met
        );
        var row = await lessons.HandIn(
            new()
            {
                TeamId = at.Row.TeamId,
                AssignmentId = assignment,
                RigId = state.Id,
                Revision = state.Revision,
                Copy = state.Copy,
                Document = Documents.Write(known),
                Says = says,
            },
            cancel
        );
        await tell.Team(row.TeamId);
        return HandInView.Of(row, caller.Who == Who.Team);
    }

    private static string Last(LogRow line, int number) =>
        $"run {number} on revision {line.Revision} {(line.Passed ? "passed" : line.Cause == "" ? "failed" : $"failed: {line.Cause}")}"
        + (line.TimeS is { } s ? $", {Figures.Show(s)} s" : "");

    private static async Task<HandInView> Mark(
        long handIn,
        MarksRequest request,
        Caller caller,
        LessonStore lessons,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        var row = await lessons.HandInOf(handIn, cancel);
        var rubric = (await lessons.One(row.AssignmentId, cancel)).Lesson.Rubric;
        var team = caller.Who == Who.Team;
        var need = new Require();
        var levels = Marking.Check(need, rubric, request.Levels);
        need.That(!team || request.Note is null, "note", "Only the educator writes a note; what you say is handed in.");
        need.That((request.Note?.Trim().Length ?? 0) <= Marking.MostSaid, "note", $"At most {Marking.MostSaid} letters.");
        need.Done();
        var marked = await lessons.Mark(handIn, levels, !team, request.Note?.Trim(), cancel);
        await tell.Team(row.TeamId);
        return HandInView.Of(marked, team);
    }

    private static async Task<Decided> Decide(
        long offer,
        DecideRequest request,
        LessonStore lessons,
        RigStore rigs,
        Announcer announce,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        if (request.Take is not { } take)
            throw new InputProblem("take", "Say true or false.");
        var (row, revision) = await lessons.Decide(offer, take, cancel);
        if (revision is { } now)
            await announce.Changed(
                row.RigId!,
                (await rigs.Copies.Copies(row.RigId!, cancel))[^1].Number,
                now,
                $"took over: {row.Say}",
                null
            );
        await tell.Team(row.TeamId);
        return new(take ? "It is in now." : "It stays as it is.", revision);
    }

    // Of the educator.

    private static async Task<ClassLessons> OfClass(
        long id,
        Caller caller,
        LessonStore lessons,
        CourseStore courses,
        ClassStore classes,
        RigStore rigs,
        RateKeeper keeper,
        TimeProvider clock,
        CancellationToken cancel
    )
    {
        await classes.Class(id, cancel);
        var teams = (await classes.Teams(id, cancel)).ToDictionary(t => t.Id);
        var handed = (await lessons.HandInsOf(id, cancel)).ToLookup(h => h.AssignmentId);
        var offers = (await lessons.OffersOf(id, cancel)).Where(o => o.State == OfferState.Open).ToArray();
        var known = (await courses.List(cancel)).ToDictionary(c => c.Row.Id, c => c.Course);
        var made = new List<ClassLesson>();
        var given = await lessons.OfClass(id, cancel);
        var rigsKnown = await Read(given, rigs, cancel);
        foreach (var group in given.GroupBy(a => (a.Row.CourseId, a.Row.Lesson)))
        {
            var first = group.First().Lesson;
            var now = known.GetValueOrDefault(group.Key.CourseId)?.Lessons.FirstOrDefault(l => l.Name == group.Key.Lesson);
            var lines = new List<ClassLessonTeam>();
            foreach (var at in group.OrderBy(a => teams[a.Row.TeamId].Table).ThenBy(a => a.Row.Id))
            {
                HandInRow[] mine = [.. handed[at.Row.Id]];
                var team = teams[at.Row.TeamId];
                var progress = Of(at, rigsKnown, mine.Length, keeper);
                lines.Add(
                    new(
                        at.Row.Id,
                        team.Id,
                        team.Name,
                        team.Table,
                        at.Row.RigId,
                        progress.Met,
                        progress.Say,
                        at.Row.Hints,
                        Math.Max(0, (int)(clock.GetUtcNow().UtcDateTime - at.Row.TimeUtc).TotalMinutes),
                        offers.Count(o => o.AssignmentId == at.Row.Id || o.RigId != null && o.RigId == at.Row.RigId),
                        [.. mine.Select(h => HandInView.Of(h, caller.Who == Who.Team))]
                    )
                );
            }
            made.Add(
                new(
                    group.Key.CourseId,
                    known.GetValueOrDefault(group.Key.CourseId)?.Name ?? group.Key.CourseId,
                    group.Key.Lesson,
                    first.Minutes,
                    first.Done.Say(first.Scene),
                    first.Rubric,
                    now is null ? [] : [.. group.SelectMany(a => Marking.Differs(a.Lesson, now)).Distinct()],
                    lines
                )
            );
        }
        return new(made);
    }

    private static async Task<HandedOut> HandOut(
        long id,
        HandOutLesson request,
        LessonStore lessons,
        CourseStore courses,
        ClassStore classes,
        RoomStore rooms,
        RoomKeeper room,
        RoomTeller tell,
        RateKeeper keeper,
        TimeProvider clock,
        CancellationToken cancel
    )
    {
        await classes.Class(id, cancel);
        var need = new Require();
        need.That(!string.IsNullOrWhiteSpace(request.Course), "course", "Say which course, by its address.");
        need.That(!string.IsNullOrWhiteSpace(request.Lesson), "lesson", "Say which lesson, by its name.");
        need.Done();
        var kept = await courses.Course(request.Course!, cancel);
        var lesson =
            kept.Course.Lessons.FirstOrDefault(l => l.Name == request.Lesson)
            ?? throw new InputProblem("lesson", $"The course has no lesson “{request.Lesson}”.");
        // What was changed at its rig since the lesson was kept may have made it one that nobody can do.
        var designs = await courses.Rigs(cancel);
        LessonRules.Check(need, lesson, "lesson", r => designs.GetValueOrDefault(r));
        need.Done();
        var all = await classes.Teams(id, cancel);
        if (request.Teams?.Except(all.Select(t => t.Id)).Any() == true)
            throw new InputProblem("teams", "One of these is no team of this class.");
        if (all.Count == 0)
            throw new InputProblem("teams", "The class has no team yet. Add one, or let one join.");
        var has = (await lessons.OfClass(id, cancel))
            .Where(a => a.Row.CourseId == request.Course && a.Row.Lesson == request.Lesson)
            .Select(a => a.Row.TeamId)
            .ToHashSet();
        TeamRow[] to = [.. all.Where(t => request.Teams is null ? !has.Contains(t.Id) : request.Teams.Contains(t.Id))];
        if (to.Length == 0)
            throw new InputProblem("teams", "All teams have this lesson already. Offer them what has changed instead.");
        var made = new List<string>();
        foreach (var team in to)
        {
            var row = await lessons.HandOut(request.Course!, kept.Row.Head, lesson, team.Id, cancel);
            if (row.RigId is { } rig)
            {
                made.Add(rig);
                keeper.Ask(rig, 1);
            }
            await tell.Team(team.Id);
        }
        if (request.Clock == true && room.Open?.Class == id)
        {
            await rooms.Change(r => r.EndsUtc = clock.GetUtcNow().UtcDateTime.AddMinutes(lesson.Minutes), cancel);
            await tell.All(id);
        }
        return new(made, $"{lesson.Name} was handed out to {Figures.List(to.Select(t => t.Name))}.");
    }

    // What can be offered of one thing that was handed out: the teams that have it, what they were given, and what it is now.
    private sealed record Source(
        IReadOnlyList<(long Team, long? Assignment, string? Rig)> Holders,
        Lesson? Now,
        int Version,
        IReadOnlyList<string> Differs,
        IReadOnlyList<LineOffer> Lines,
        int Rest
    );

    private static async Task<Source> Find(
        long id,
        string? course,
        string? lesson,
        string? rig,
        LessonStore lessons,
        CourseStore courses,
        ClassStore classes,
        RigStore rigs,
        CancellationToken cancel
    )
    {
        await classes.Class(id, cancel);
        var given = await lessons.OfClass(id, cancel);
        if (!string.IsNullOrEmpty(course))
        {
            var kept = await courses.Course(course, cancel);
            var now =
                kept.Course.Lessons.FirstOrDefault(l => l.Name == lesson)
                ?? throw new InputProblem("lesson", $"The course has no lesson “{lesson}” any more.");
            Assignment[] those = [.. given.Where(a => a.Row.CourseId == course && a.Row.Lesson == lesson)];
            var (lines, rest) =
                now.Rig == "" || those.FirstOrDefault(a => a.Row.RigId is not null) is not { } first
                    ? ([], 0)
                    : await Lines(first.Row.RigId!, LessonStart.Of(await rigs.Designs.DesignNow(now.Rig, cancel), now), rigs, cancel);
            return new(
                [.. those.Select(a => (a.Row.TeamId, (long?)a.Row.Id, a.Row.RigId))],
                now,
                kept.Row.Head,
                [.. those.SelectMany(a => Marking.Differs(a.Lesson, now)).Distinct()],
                lines,
                rest
            );
        }
        if (string.IsNullOrEmpty(rig))
            throw new InputProblem("rig", "Say what was handed out: a course and a lesson, or a rig of the desk.");
        var ofLessons = given.Select(a => a.Row.RigId).ToHashSet();
        TeamRig[] plain = [.. (await classes.Rigs(id, cancel)).Where(r => r.OriginRig == rig && !ofLessons.Contains(r.Id))];
        var (changed, left) =
            plain.Length == 0 ? ([], 0) : await Lines(plain[0].Id, await rigs.Designs.DesignNow(rig, cancel), rigs, cancel);
        return new([.. plain.Select(r => (r.Team, (long?)null, (string?)r.Id))], null, 0, [], changed, left);
    }

    private static async Task<(IReadOnlyList<LineOffer> Lines, int ByHand)> Lines(
        string held,
        RigDesign now,
        RigStore rigs,
        CancellationToken cancel
    )
    {
        var before = await rigs.Designs.DesignOf(held, 1, cancel);
        ProgramNode Main(RigDesign d) => ScriptParser.Parse(d.Program.Script, Vocabulary.For(d, d.Program)).Program;
        var lines = LineOffers.Between(Main(before), Main(now));
        var covered = lines.Sum(l => 1 + l.Lines.Count);
        return (lines, Math.Max(0, ProgramDifference.Between(before, now).Count - covered));
    }

    private static async Task<ChangesToOffer> Changes(
        long id,
        string? course,
        string? lesson,
        string? rig,
        LessonStore lessons,
        CourseStore courses,
        ClassStore classes,
        RigStore rigs,
        CancellationToken cancel
    )
    {
        var source = await Find(id, course, lesson, rig, lessons, courses, classes, rigs, cancel);
        return new(source.Differs, [.. source.Lines.Select(l => l.Say)], source.Rest, source.Holders.Count);
    }

    private static async Task<Offering> Offer(
        long id,
        OfferRequest request,
        LessonStore lessons,
        CourseStore courses,
        ClassStore classes,
        RigStore rigs,
        RoomTeller tell,
        CancellationToken cancel
    )
    {
        var source = await Find(id, request.Course, request.Lesson, request.Rig, lessons, courses, classes, rigs, cancel);
        var offers = new List<OfferRow>();
        string say;
        if (request.Line is { } said)
        {
            var line =
                source.Lines.FirstOrDefault(l => l.Say == said)
                ?? throw new InputProblem("line", "This changed again meanwhile. Look at what can be offered now.");
            say = line.Say;
            offers.AddRange(
                source
                    .Holders.Where(h => h.Rig is not null)
                    .Select(h => new OfferRow
                    {
                        TeamId = h.Team,
                        RigId = h.Rig,
                        Document = Documents.Write(line),
                        Say = say,
                    })
            );
        }
        else
        {
            if (source.Now is null || source.Differs.Count == 0)
                throw new InputProblem("lesson", "Nothing of the lesson changed since it was handed out.");
            say = $"The lesson was changed: {Figures.List(source.Differs)}.";
            offers.AddRange(
                source.Holders.Select(h => new OfferRow
                {
                    TeamId = h.Team,
                    AssignmentId = h.Assignment,
                    Version = source.Version,
                    Document = Documents.Write(source.Now),
                    Say = say,
                })
            );
        }
        if (offers.Count == 0)
            throw new InputProblem("lesson", "No team has this yet.");
        await lessons.Offer(offers, cancel);
        foreach (var team in offers.Select(o => o.TeamId).Distinct())
            await tell.Team(team);
        return new(offers.Count, $"Offered to {Figures.Count(offers.Count, "team")}. Each takes it or not.");
    }
}

/// <summary>What the calls about lessons of teams need.</summary>
/// <param name="Caller">Who asks.</param>
/// <param name="Lessons">Lessons that were handed out.</param>
/// <param name="Classes">Classes.</param>
/// <param name="Rigs">Rigs.</param>
/// <param name="Keeper">Counts rates.</param>
/// <param name="Tell">Tells pages.</param>
public sealed record LessonNeeds(Caller Caller, LessonStore Lessons, ClassStore Classes, RigStore Rigs, RateKeeper Keeper, RoomTeller Tell);
