using System.Text;

namespace Chiton.Core.Checking;

/// <summary>The page of the catalogue, written from it.</summary>
public static class CataloguePage
{
    private static string Worst(Severity severity) =>
        severity switch
        {
            Severity.Stops => "cannot work",
            Severity.Risky => "risky",
            _ => "good to know",
        };

    /// <summary>The page as Markdown: what is looked for, each with an example and what mends it, and what nobody looks for yet.</summary>
    public static string Text()
    {
        var page = new StringBuilder(
            """
            # What is looked for

            Check looks at every program that runs, on the copy that is open. What it finds stands under its line, with why, the rig's own
            figures, and where one button helps, the button. Each can be set aside with a reason; once its figures are others it speaks
            again. What nobody looks for yet stands at the end: of that, silence is no answer.

            | code | what | at its worst |
            |---|---|---|

            """
        );
        foreach (var check in Catalogue.All)
            page.Append(null, $"| `{check.Code}` | {check.Title} | {Worst(check.Worst)} |\n");
        foreach (var check in Catalogue.All)
        {
            page.Append(null, $"\n## {check.Title}\n\n`{check.Code}`, at its worst {Worst(check.Worst)}. {check.Says}\n");
            if (check.Example is null)
                continue;
            page.Append(null, $"\n```\n{check.Example.TrimEnd()}\n```\n\nMended:\n\n```\n{check.Mended!.TrimEnd()}\n```\n");
        }
        page.Append("\n## Refused as it is written\n\n");
        foreach (var (code, title, says) in Catalogue.Refused)
            page.Append(null, $"- {title} (`{code}`): {says}\n");
        return page.ToString().Replace("\r", "", StringComparison.Ordinal);
    }
}
