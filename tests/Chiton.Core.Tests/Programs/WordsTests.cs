using System.Text.RegularExpressions;

namespace Chiton.Core.Tests.Programs;

/// <summary>The list of words is the parser's own.</summary>
public class WordsTests
{
    [Fact]
    public void Every_word_that_the_parser_takes_is_listed_and_every_listed_one_is_taken()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Chiton.slnx")))
            folder = folder.Parent!;
        var language = Path.Combine(folder.FullName, "src", "Chiton.Core", "Programs", "Language");
        var text = string.Concat(Directory.EnumerateFiles(language, "*Parser*.cs").Order().Select(File.ReadAllText));
        var taken = Regex
            .Matches(text, @"(?:Take|Need|Peek)\(""([^""]+)""")
            .SelectMany(m => m.Groups[1].Value.Split(' ', '-'))
            .Where(w => w != "" && w.All(char.IsLetter))
            .ToHashSet();
        Assert.True(taken.Count > 60);
        Assert.Empty(taken.Except(Words.Keywords).Order());
        // Some words stand in lists of choices rather than in a call of their own.
        foreach (var word in Words.Keywords.Where(w => !taken.Contains(w)))
            Assert.Matches($"\"[^\"\n]*\\b{word}\\b[^\"\n]*\"", text);
        Assert.Equal(Words.Keywords.Count, Words.Keywords.Distinct().Count());
        Assert.All(Words.Blocks, b => Assert.Contains(b, Words.Keywords));
    }
}
