using Chiton.Core.Classroom;
using Chiton.Core.Quantities;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>A challenge as it stands.</summary>
/// <param name="Row">Its row.</param>
/// <param name="Challenge">The challenge.</param>
public sealed record KeptChallenge(ChallengeRow Row, Challenge Challenge);

/// <summary>Challenges of the desk.</summary>
public sealed class ChallengeStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>Most challenges that are not put away.</summary>
    public const int MostChallenges = 100;

    /// <summary>All, by their addresses; those that are put away last.</summary>
    public async Task<IReadOnlyList<KeptChallenge>> List(CancellationToken cancel) =>
        [
            .. (await Db.Challenges.AsNoTracking().OrderBy(c => c.Archived).ThenBy(c => c.Id).ToListAsync(cancel)).Select(
                c => new KeptChallenge(c, Documents.Read<Challenge>(c.Document))
            ),
        ];

    /// <summary>A challenge.</summary>
    /// <exception cref="NotStored">When there is none.</exception>
    public async Task<KeptChallenge> Challenge(string id, CancellationToken cancel) =>
        await Db.Challenges.AsNoTracking().FirstOrDefaultAsync(c => c.Id == id, cancel) is { } row
            ? new(row, Documents.Read<Challenge>(row.Document))
            : throw new NotStored($"There is no challenge “{id}”.");

    /// <summary>Keeps a new challenge.</summary>
    /// <param name="challenge">The challenge, already checked.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <param name="id">Its address; null for a free one after its name.</param>
    /// <returns>Its address.</returns>
    /// <exception cref="InputProblem">When there are too many, or one of that name.</exception>
    public Task<string> Make(Challenge challenge, CancellationToken cancel, string? id = null) =>
        Write(
            async () =>
            {
                var all = await List(cancel);
                if (all.Count(c => !c.Row.Archived) >= MostChallenges)
                    throw new InputProblem("name", $"At most {MostChallenges} challenges. Put one away first.");
                Alone(challenge, all, null);
                id ??= FileStore.Free(challenge.Name, "challenge", [.. all.Select(c => c.Row.Id)]);
                Db.Challenges.Add(
                    new()
                    {
                        Id = id,
                        Version = 1,
                        Document = Documents.Write(challenge),
                        CreatedUtc = Now,
                    }
                );
                return id;
            },
            cancel
        );

    private static void Alone(Challenge challenge, IEnumerable<KeptChallenge> all, string? id)
    {
        if (all.Any(c => c.Row.Id != id && c.Challenge.Name.Equals(challenge.Name, StringComparison.OrdinalIgnoreCase)))
            throw new InputProblem("name", $"There already is a challenge “{challenge.Name}”.");
    }

    /// <summary>Changes a challenge. Heats that have begun keep it as it was.</summary>
    /// <param name="id">Its address.</param>
    /// <param name="baseVersion">The version that was changed.</param>
    /// <param name="challenge">The challenge, already checked.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>Number of the version now; the same as before when nothing changed.</returns>
    /// <exception cref="StaleEdit">When another version is current.</exception>
    public Task<int> Save(string id, int baseVersion, Challenge challenge, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Challenges.FirstOrDefaultAsync(c => c.Id == id, cancel)
                    ?? throw new NotStored($"There is no challenge “{id}”.");
                if (row.Version != baseVersion)
                    throw new StaleEdit(row.Version, "it was changed on another page");
                Alone(challenge, await List(cancel), id);
                var document = Documents.Write(challenge);
                if (document == row.Document)
                    return row.Version;
                row.Document = document;
                return ++row.Version;
            },
            cancel
        );

    /// <summary>Puts a challenge away, or takes it out again.</summary>
    public Task<bool> Archive(string id, bool archived, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Challenges.FirstOrDefaultAsync(c => c.Id == id, cancel)
                    ?? throw new NotStored($"There is no challenge “{id}”.");
                return row.Archived = archived;
            },
            cancel
        );

    /// <summary>A challenge as a file, with the rig that its scene speaks of.</summary>
    public async Task<ChallengeFile> Export(string id, CancellationToken cancel)
    {
        var challenge = (await Challenge(id, cancel)).Challenge;
        var here = await Db.Rigs.AsNoTracking().AnyAsync(r => r.Id == challenge.Rig && r.TeamId == null, cancel);
        return new(
            ChallengeFile.FormatName,
            ChallengeFile.CurrentVersion,
            challenge,
            here ? await new FileStore(Db, Clock).Export(challenge.Rig, cancel) : null
        );
    }

    /// <summary>Takes a challenge in from a file, with its rig where that is not here yet: all of it, or nothing.</summary>
    /// <param name="challenge">The challenge, already checked against the rig of the file.</param>
    /// <param name="rig">Its rig, already checked; null where the file brings none.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>Address of the challenge, and of the rig that was made; null where none was.</returns>
    public Task<(string Id, string? Rig)> Import(Challenge challenge, RigFile? rig, CancellationToken cancel) =>
        Write(
            async () =>
            {
                string? made = null;
                var here = (await new CourseStore(Db, Clock).Rigs(cancel)).GetValueOrDefault(challenge.Rig);
                // The same rig under the same address is no second one.
                if (rig is not null && here != rig.Design)
                    made = await new FileStore(Db, Clock).Add(rig, $"came with the challenge {challenge.Name}", cancel);
                var names = (await List(cancel)).Select(c => c.Challenge.Name).ToArray();
                var named = challenge with { Name = Board.FreeName(challenge.Name, names), Rig = made ?? challenge.Rig };
                return (await Make(named, cancel), made);
            },
            cancel
        );
}

/// <summary>A challenge as a file.</summary>
/// <param name="Format">What it is.</param>
/// <param name="Version">Version of the format, from 1.</param>
/// <param name="Challenge">The challenge.</param>
/// <param name="Rig">The rig whose devices its scene speaks of; none where that was not there.</param>
public sealed record ChallengeFile(string Format, int Version, Challenge Challenge, RigFile? Rig)
{
    /// <summary>What <see cref="Format"/> says.</summary>
    public const string FormatName = "chiton-challenge";

    /// <summary>The version that is written.</summary>
    public const int CurrentVersion = 1;
}
