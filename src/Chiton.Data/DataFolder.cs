using Microsoft.Data.Sqlite;

namespace Chiton.Data;

/// <summary>The data folder cannot be used. The message says what is wrong, with which file, and what to do.</summary>
public sealed class FolderTrouble(string say, Exception? inner = null) : Exception(say, inner);

/// <summary>
/// The folder that everything is kept in. While it is open no other server can open it: the operating system holds its lock
/// and lets go of it when the process ends, however it ends.
/// </summary>
public sealed class DataFolder : IDisposable
{
    private readonly FileStream held;

    private DataFolder(string path, FileStream held) => (Path, this.held) = (path, held);

    /// <summary>The folder.</summary>
    public string Path { get; }

    /// <summary>The database file in it.</summary>
    public string Database => System.IO.Path.Combine(Path, "chiton.db");

    /// <summary>A database that is being made or brought up to date; it takes the place of the other only when it is whole.</summary>
    public string Making => Database + ".making";

    /// <summary>Opens a folder, making it where there is none.</summary>
    /// <param name="path">Its path.</param>
    /// <exception cref="FolderTrouble">When it cannot be made, written to, or another server has it open.</exception>
    public static DataFolder Open(string path)
    {
        var folder = System.IO.Path.GetFullPath(path);
        var file = System.IO.Path.Combine(folder, "chiton.lock");
        try
        {
            Directory.CreateDirectory(folder);
            return new(folder, new FileStream(file, FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None));
        }
        catch (IOException e) when (e is not (DirectoryNotFoundException or PathTooLongException) && File.Exists(file) && !IsFull(e))
        {
            throw new FolderTrouble(
                $"Another Chiton already runs on the folder {folder}. Use that one, or stop it first; or set CHITON_DATA to "
                    + "another folder.",
                e
            );
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or NotSupportedException or ArgumentException)
        {
            throw new FolderTrouble(
                IsFull(e)
                    ? $"The disk of the folder {folder} is full. Make room there, or set CHITON_DATA to a folder on another disk."
                    : $"The folder {folder} cannot be written to: {Sentence(e.Message)} Allow this account to write there, or set "
                        + "CHITON_DATA to another folder.",
                e
            );
        }
    }

    private static bool IsFull(Exception e) => e is IOException && (e.HResult & 0xFFFF) is 28 or 112;

    /// <summary>What went wrong with a file, in words for the person who has to do something; null when it is something else.</summary>
    /// <param name="e">What was thrown, whatever it is wrapped in.</param>
    /// <param name="file">The file.</param>
    public static string? Words(Exception e, string file)
    {
        for (Exception? at = e; at is not null; at = at.InnerException)
            switch (at)
            {
                case FolderTrouble trouble:
                    return trouble.Message;
                case SqliteException sqlite:
                    return sqlite.SqliteErrorCode switch
                    {
                        13 => $"The disk is full, so {file} cannot grow. Make room on that disk. What was kept before is safe.",
                        8 => $"{file} is write-protected. Allow this account to write to the file and its folder.",
                        11 => $"{file} is damaged. Stop Chiton, put a backup from the same folder (a file that ends in .backup) in its "
                            + "place, and start again.",
                        26 => $"{file} is no database of Chiton, or its beginning is damaged. Move it away, or put a backup from the "
                            + "same folder (a file that ends in .backup) in its place.",
                        14 => $"{file} cannot be opened. Look whether the file and its folder are still there and this account may read "
                            + "and write them.",
                        10 => $"{file} could not be read or written: the disk reports an error. Look whether the disk is full, "
                            + "connected and sound.",
                        5 or 6 => $"Another program holds {file}. Close it and try again.",
                        _ => null,
                    };
                case IOException io when IsFull(io):
                    return $"The disk is full, so {file} cannot grow. Make room on that disk. What was kept before is safe.";
            }
        return null;
    }

    private static string Sentence(string text) => text.TrimEnd().EndsWith('.') ? text : text + ".";

    /// <inheritdoc/>
    public void Dispose() => held.Dispose();
}
