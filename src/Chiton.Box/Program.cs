using Chiton.Box;

// A stand-in for a real rig: it speaks the line on a loopback port, as a process of its own.

if (args is ["--help" or "-h" or "help"])
{
    Console.WriteLine(BoxAsked.Usage);
    return 0;
}
BoxAsked asked;
try
{
    asked = BoxAsked.Read(args, Environment.GetEnvironmentVariable("CHITON_DATA") is { Length: > 0 } set ? set : null);
}
catch (BoxTrouble e)
{
    Console.Error.WriteLine($"{e.Message}\n\n{BoxAsked.Usage}");
    return 2;
}
using var stop = new CancellationTokenSource();
Console.CancelKeyPress += (_, e) =>
{
    e.Cancel = true;
    stop.Cancel();
};
try
{
    var make = await BoxSource.Make(asked.Folder, asked.Rig, asked.Copy, asked.Seed, stop.Token);
    using var box = new BoxServer(make, asked.Port, Console.WriteLine);
    foreach (var line in asked.Typed)
        box.Command(line);
    box.Ready();
    Console.WriteLine(
        $"A stand-in of {make.Rig.Name} is at 127.0.0.1:{box.Port}, with revision {make.Holds.Revision}. Stop it with Ctrl+C."
    );
    // The keyboard ends where the box is started without one.
    _ = Task.Run(() =>
    {
        while (Console.ReadLine() is { } line)
            box.Command(line);
    });
    box.Run(stop.Token);
    return 0;
}
catch (BoxTrouble e)
{
    Console.Error.WriteLine($"The box cannot start. {e.Message}");
    return 1;
}
catch (OperationCanceledException)
{
    return 0;
}
