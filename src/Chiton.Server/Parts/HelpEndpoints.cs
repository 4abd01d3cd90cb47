using Chiton.Core.Checking;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>A section of a help page.</summary>
/// <param name="Id">Its name in addresses.</param>
/// <param name="Title">Its heading.</param>
/// <param name="Text">What it says, in Markdown.</param>
public sealed record HelpSection(string Id, string Title, string Text);

/// <summary>A page of help.</summary>
/// <param name="Name">Its name in addresses.</param>
/// <param name="Title">Its title.</param>
/// <param name="Sections">Its sections, in order.</param>
public sealed record HelpPage(string Name, string Title, IReadOnlyList<HelpSection> Sections);

/// <summary>The help that ships, and what each word of ours means.</summary>
/// <param name="Pages">The pages.</param>
/// <param name="Words">What a word means, by the word in small letters.</param>
public sealed record HelpView(IReadOnlyList<HelpPage> Pages, IReadOnlyDictionary<string, string> Words);

/// <summary>The words of the script language.</summary>
/// <param name="Keywords">Every word of the grammar.</param>
/// <param name="Blocks">Those that begin what has lines of its own.</param>
/// <param name="Units">Units of numbers.</param>
/// <param name="Comment">The sign that begins a comment.</param>
public sealed record LanguageView(
    IReadOnlyList<string> Keywords,
    IReadOnlyList<string> Blocks,
    IReadOnlyList<string> Units,
    string Comment
);

/// <summary>Help, the words of the language, and finding.</summary>
public static class HelpEndpoints
{
    private const int Most = 14;

    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/help", () => Help.Value).WithName("getHelp").WithTags("Help");
        api.MapGet(
                "/language",
                () => new LanguageView(Words.Keywords, Words.Blocks, [.. Unit.All.Select(u => u.Text).Where(u => u != "")], "#")
            )
            .WithName("getLanguage")
            .WithTags("Help");
        api.MapGet(
                "/rigs/{id}/find",
                async Task<IReadOnlyList<Findable>> (string id, string? text, int? copy, RigStore store, CancellationToken cancel) =>
                {
                    var state = await store.Load(id, copy, null, cancel);
                    return Finder.Find(
                        [.. Parts, .. Finder.Things(state.Design, state.Known.Programs, state.Moves), .. Actions, .. Sums, .. Sections],
                        text ?? "",
                        Most
                    );
                }
            )
            .WithName("find")
            .WithTags("Help")
            .ProducesProblem(404);
    }

    private static readonly Findable[] Parts =
    [
        new("Rig", "part", "rig", "devices, wiring, power", ["robot", "wiring table", "ports", "preflight"]),
        new("Line", "part", "rig/line", "a real thing over a cable", ["serial", "port", "usb", "box", "cable", "plug", "board"]),
        new("Sense", "part", "sense", "readings, zones and thresholds", ["calibrate", "calibration", "sensor"]),
        new("Move", "part", "move", "numbers, trials and chains", ["trials", "wheel", "drive", "line"]),
        new("Program", "part", "program", "the state machine", ["sheet", "sentences"]),
        new("Script", "part", "program/script", "the program as text", ["code", "text", "replace"]),
        new("Chart", "part", "program/chart", "the program drawn", ["diagram", "graph", "picture", "svg", "mermaid"]),
        new("Walk through", "part", "program/walk", "the program by hand", ["step", "trace", "debug"]),
        new("History", "part", "program/history", "revisions", ["revisions", "compare", "earlier"]),
        new("Check", "part", "check", "what was found"),
        new("Simulate", "part", "simulate", "runs", ["run", "simulation", "bench"]),
        new(
            "Prove",
            "part",
            "prove",
            "how often it works",
            ["rate", "success", "chance", "doubt", "tune", "better numbers", "compare", "measure next", "target"]
        ),
        new("Log", "part", "log", "what happened on the table"),
    ];

    private static readonly Findable[] Actions =
    [
        new("Undo", "action", "undo", "take back the latest edit", ["ctrl z", "mistake", "back"]),
        new("Redo", "action", "redo", "do again what was undone", ["ctrl shift z", "again"]),
        new("Send to the controller", "action", "send", null, ["upload", "flash", "deploy"]),
        new("Print this page", "action", "print", null, ["paper", "pdf", "worksheet"]),
        new(
            "Keys and settings",
            "action",
            "settings",
            "colours, size of letters, single keys",
            ["dark", "theme", "shortcuts", "font", "contrast"]
        ),
        new("Bench sums", "action", "sums", "every calculation", ["calculate", "calculator", "formula"]),
        new("All rigs", "action", "rigs", "open, make, export or take in a rig", ["new rig", "export", "import", "template", "home"]),
    ];

    private static readonly IReadOnlyList<Findable> Sums =
    [
        .. SumEndpoints.Catalogue.Value.Sums.Select(s => new Findable(s.Title, "sum", s.Name, s.Part, s.Asks)),
    ];

    private static readonly Lazy<HelpView> Help = new(() =>
    {
        HelpPage[] pages = [Page("guide"), Page("language"), Page("checks"), Page("line")];
        var words = pages[0].Sections.First(s => s.Id == "words");
        return new(
            pages,
            words
                .Text.Split("\n- ", StringSplitOptions.RemoveEmptyEntries)
                .Select(item => item.TrimStart('-', ' ', '\n').Replace("\n", " ").Split("**: ", 2))
                .Where(p => p.Length == 2)
                .ToDictionary(
                    p => p[0].TrimStart('*').ToLowerInvariant(),
                    p => string.Join(' ', p[1].Split(' ', StringSplitOptions.RemoveEmptyEntries)).Replace("*", "")
                )
        );
    });

    private static readonly IReadOnlyList<Findable> Sections =
    [
        .. Help.Value.Pages.SelectMany(p =>
            p.Sections.Select(s => new Findable(s.Title, "help", $"/help/{p.Name}#{s.Id}", p.Title, [s.Text]))
        ),
    ];

    private static HelpPage Page(string name)
    {
        using var reader = new StreamReader(typeof(HelpEndpoints).Assembly.GetManifestResourceStream(name + ".md")!);
        // What makes the tables is for those who write the page.
        var text = string.Join('\n', reader.ReadToEnd().Split('\n').Where(l => !l.StartsWith("<!--", StringComparison.Ordinal)));
        var parts = ("\n" + text.Trim()).Split("\n## ");
        var title = parts[0].Trim().Split('\n')[0].TrimStart('#', ' ');
        var first = parts[0].Trim()[(title.Length + 2)..].Trim();
        return new(
            name,
            title,
            [
                .. (first == "" ? [] : new[] { new HelpSection("begin", title, first) }),
                .. parts
                    .Skip(1)
                    .Select(p =>
                    {
                        var heading = p.Split('\n')[0].Trim();
                        return new HelpSection(heading.ToLowerInvariant().Replace(' ', '-'), heading, p[heading.Length..].Trim());
                    }),
            ]
        );
    }
}
