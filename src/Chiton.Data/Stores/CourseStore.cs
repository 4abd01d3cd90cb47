using Chiton.Core.Classroom;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Microsoft.EntityFrameworkCore;

namespace Chiton.Data;

/// <summary>A course as it stands.</summary>
/// <param name="Row">Its row.</param>
/// <param name="Course">The course.</param>
public sealed record KeptCourse(CourseRow Row, Course Course);

/// <summary>Courses and their versions.</summary>
public sealed class CourseStore(ChitonDb db, TimeProvider clock) : Store(db, clock)
{
    /// <summary>Most courses that are not put away.</summary>
    public const int MostCourses = 100;

    /// <summary>All courses by their addresses, those that are put away last.</summary>
    public async Task<IReadOnlyList<KeptCourse>> List(CancellationToken cancel) =>
        [
            .. (
                await Db
                    .Courses.AsNoTracking()
                    .Join(
                        Db.CourseVersions.AsNoTracking(),
                        c => new { CourseId = c.Id, Number = c.Head },
                        v => new { v.CourseId, v.Number },
                        (c, v) => new { c, v }
                    )
                    .OrderBy(r => r.c.Archived)
                    .ThenBy(r => r.c.Id)
                    .ToListAsync(cancel)
            ).Select(r => new KeptCourse(r.c, Documents.Read<Course>(r.v.Document))),
        ];

    /// <summary>A course as it stands.</summary>
    /// <exception cref="NotStored">When there is none.</exception>
    public async Task<KeptCourse> Course(string id, CancellationToken cancel)
    {
        var row =
            await Db.Courses.AsNoTracking().FirstOrDefaultAsync(c => c.Id == id, cancel)
            ?? throw new NotStored($"There is no course “{id}”.");
        return new(row, await Version(id, row.Head, cancel));
    }

    /// <summary>A version of a course.</summary>
    /// <exception cref="NotStored">When there is none.</exception>
    public async Task<Course> Version(string id, int number, CancellationToken cancel) =>
        await Db.CourseVersions.AsNoTracking().FirstOrDefaultAsync(v => v.CourseId == id && v.Number == number, cancel) is { } row
            ? Documents.Read<Course>(row.Document)
            : throw new NotStored($"The course has no version {number}.");

    /// <summary>Versions of a course, the latest first, without the courses.</summary>
    public Task<List<CourseVersionRow>> Versions(string id, CancellationToken cancel) =>
        Db
            .CourseVersions.AsNoTracking()
            .Where(v => v.CourseId == id)
            .OrderByDescending(v => v.Number)
            .Take(200)
            .Select(v => new CourseVersionRow
            {
                CourseId = v.CourseId,
                Number = v.Number,
                TimeUtc = v.TimeUtc,
                What = v.What,
                Document = "",
            })
            .ToListAsync(cancel);

    /// <summary>The desk's rigs as lessons know them, by address.</summary>
    public async Task<IReadOnlyDictionary<string, RigDesign>> Rigs(CancellationToken cancel) =>
        await Db
            .Rigs.AsNoTracking()
            .Where(r => r.TeamId == null)
            .Join(
                Db.Revisions,
                r => new { RigId = r.Id, Number = r.HeadRevision },
                v => new { v.RigId, v.Number },
                (r, v) => new { r.Id, v.Document }
            )
            .ToDictionaryAsync(r => r.Id, r => Designs.Read(r.Document), cancel);

    /// <summary>Keeps a new course.</summary>
    /// <param name="course">The course, already checked.</param>
    /// <param name="what">How it came to be, in words.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <param name="id">Its address; null for a free one after its name.</param>
    /// <returns>Its address.</returns>
    /// <exception cref="InputProblem">When there are too many.</exception>
    public Task<string> Make(Course course, string what, CancellationToken cancel, string? id = null) =>
        Write(
            async () =>
            {
                var taken = await Db.Courses.AsNoTracking().Select(c => c.Id).ToListAsync(cancel);
                if (await Db.Courses.CountAsync(c => !c.Archived, cancel) >= MostCourses)
                    throw new InputProblem("name", $"At most {MostCourses} courses. Put one away first.");
                id ??= FileStore.Free(course.Name, "course", taken);
                Db.Courses.Add(
                    new()
                    {
                        Id = id,
                        Head = 1,
                        CreatedUtc = Now,
                    }
                );
                Add(id, 1, course, what);
                return id;
            },
            cancel
        );

    /// <summary>Keeps the next version of a course.</summary>
    /// <param name="id">Its address.</param>
    /// <param name="baseVersion">The version that was changed.</param>
    /// <param name="course">The course, already checked.</param>
    /// <param name="what">What changed, in words.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>Number of the current version; the same as before when nothing changed.</returns>
    /// <exception cref="StaleEdit">When another version is current.</exception>
    public Task<int> Save(string id, int baseVersion, Course course, string what, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Courses.FirstOrDefaultAsync(c => c.Id == id, cancel) ?? throw new NotStored($"There is no course “{id}”.");
                var head = await Db.CourseVersions.AsNoTracking().FirstAsync(v => v.CourseId == id && v.Number == row.Head, cancel);
                if (row.Head != baseVersion)
                    throw new StaleEdit(row.Head, head.What);
                if (Documents.Write(course) == head.Document)
                    return row.Head;
                Add(id, ++row.Head, course, what);
                return row.Head;
            },
            cancel
        );

    private void Add(string id, int number, Course course, string what) =>
        Db.CourseVersions.Add(
            new()
            {
                CourseId = id,
                Number = number,
                TimeUtc = Now,
                What = what,
                Document = Documents.Write(course),
            }
        );

    /// <summary>Puts a course away, or takes it out again.</summary>
    public Task<bool> Archive(string id, bool archived, CancellationToken cancel) =>
        Write(
            async () =>
            {
                var row =
                    await Db.Courses.FirstOrDefaultAsync(c => c.Id == id, cancel) ?? throw new NotStored($"There is no course “{id}”.");
                return row.Archived = archived;
            },
            cancel
        );

    /// <summary>A course as a file, with the rigs that its lessons speak of.</summary>
    public async Task<CourseFile> Export(string id, CancellationToken cancel)
    {
        var course = (await Course(id, cancel)).Course;
        var files = new FileStore(Db, Clock);
        var there = (await Rigs(cancel)).Keys.ToHashSet();
        var rigs = new Dictionary<string, RigFile>();
        foreach (var rig in course.Lessons.Select(l => l.Rig).Where(there.Contains).Distinct().Order(StringComparer.Ordinal))
            rigs[rig] = await files.Export(rig, cancel);
        return new(CourseFile.FormatName, CourseFile.CurrentVersion, course, rigs);
    }

    /// <summary>Takes a course in from a file, with the rigs that are not here yet: all of it, or nothing.</summary>
    /// <param name="course">The course, already checked against the rigs of the file.</param>
    /// <param name="rigs">Its rigs by the addresses that lessons call them, already checked.</param>
    /// <param name="cancel">Gives up before anything is written.</param>
    /// <returns>Address of the course, and addresses of the rigs that were made.</returns>
    public Task<(string Course, IReadOnlyList<string> Rigs)> Import(
        Course course,
        IReadOnlyDictionary<string, RigFile> rigs,
        CancellationToken cancel
    ) =>
        Write(
            async () =>
            {
                var here = await Rigs(cancel);
                var files = new FileStore(Db, Clock);
                var names = new Dictionary<string, string>();
                var made = new List<string>();
                foreach (var (address, file) in rigs)
                {
                    // The same rig under the same address is no second one.
                    if (here.TryGetValue(address, out var design) && design == file.Design)
                        names[address] = address;
                    else
                        made.Add(names[address] = await files.Add(file, $"came with the course {course.Name}", cancel));
                }
                var renamed = course with
                {
                    Lessons = [.. course.Lessons.Select(l => l with { Rig = names.GetValueOrDefault(l.Rig, l.Rig) })],
                };
                return (await Make(renamed, "taken in from a file", cancel), (IReadOnlyList<string>)made);
            },
            cancel
        );
}

/// <summary>A course as a file.</summary>
/// <param name="Format">What it is.</param>
/// <param name="Version">Version of the format, from 1.</param>
/// <param name="Course">The course.</param>
/// <param name="Rigs">The rigs that its lessons speak of, by the addresses that they call them.</param>
public sealed record CourseFile(string Format, int Version, Course Course, IReadOnlyDictionary<string, RigFile> Rigs)
{
    /// <summary>What <see cref="Format"/> says.</summary>
    public const string FormatName = "chiton-course";

    /// <summary>The version that is written.</summary>
    public const int CurrentVersion = 1;
}
