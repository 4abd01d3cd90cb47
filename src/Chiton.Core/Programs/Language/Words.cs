namespace Chiton.Core.Programs.Language;

/// <summary>The words of the script language, for those who colour or list them. A test holds that the parser knows no other.</summary>
public static class Words
{
    /// <summary>Words that begin what has lines of its own.</summary>
    public static IReadOnlyList<string> Blocks { get; } = ["region", "state", "routine"];

    /// <summary>Colours that a lamp of colours can have.</summary>
    public static IReadOnlyList<string> Colours { get; } = ["red", "orange", "yellow", "green", "cyan", "blue", "purple", "pink", "white"];

    /// <summary>Every word that the grammar knows.</summary>
    public static IReadOnlyList<string> Keywords { get; } =
    [
        .. (
            "a above after all always and at back band becomes before below between blink bottom brake by cannot "
            + "clockwise coast const counter crash dead deep do done drive each edge end entry every everything exactly "
            + "exit final finished follow for from gain given gives go goal has hears held here history hold holds home "
            + "if in initial inside into is its lamp least leaves left level more most moving nearer never no not "
            + "nothing of off on once onto or otherwise over past pivoting play pressed program push queue random "
            + "reading readings region released repeat right robot routine run send set shortest show shows sounds "
            + "spinning stalls state stay steer step stop stopped straight take tapped teach tell than the then through "
            + "times to told tone top touching turn turned twice until up var wait way when while wholly with within yes "
            + "zero zone"
        ).Split(' '),
    ];
}
