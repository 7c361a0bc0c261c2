using System.Diagnostics;
using System.Globalization;

namespace PostTide.System.Tests.Peers;

/// <summary>A PostgreSQL of a test's own, which it may stop and start. It writes to disk as it would in earnest.</summary>
public sealed class Postgres : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("postgres-").FullName;
    private readonly int _port;
    private readonly string _bin;

    public Postgres()
    {
        _port = PostTide.Peers.Ports.Free();
        _bin = Directory.GetDirectories("/usr/lib/postgresql").Order(StringComparer.Ordinal).Last() + "/bin";
        if (IsRoot)
        {
            Run("chown", "postgres", _folder);
        }

        RunAs($"{_bin}/initdb", "-D", $"{_folder}/data", "-U", "posttide", "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8");
        Start();
    }

    public string Connection => string.Create(CultureInfo.InvariantCulture, $"Host=127.0.0.1;Port={_port};Username=posttide");

    private static bool IsRoot => Environment.UserName == "root";

    /// <summary>Stops it at once, as a crash does, and starts it again.</summary>
    public void Restart()
    {
        RunAs($"{_bin}/pg_ctl", "-D", $"{_folder}/data", "-m", "immediate", "-w", "stop");
        Start();
    }

    public void Dispose()
    {
        RunAs($"{_bin}/pg_ctl", "-D", $"{_folder}/data", "-m", "immediate", "-w", "stop");
        Directory.Delete(_folder, recursive: true);
    }

    private void Start() => RunAs(
        $"{_bin}/pg_ctl", "-D", $"{_folder}/data", "-w", "-t", "60", "-l", $"{_folder}/log",
        "-o", string.Create(CultureInfo.InvariantCulture, $"-p {_port} -c listen_addresses=127.0.0.1 -c unix_socket_directories={_folder}"), "start");

    private static void RunAs(string program, params string[] arguments) =>
        Run(IsRoot ? "runuser" : program, IsRoot ? ["-u", "postgres", "--", program, .. arguments] : arguments);

    private static void Run(string program, params string[] arguments)
    {
        // Nothing is read from it: a server it leaves running would hold its output open.
        using var process = Process.Start(new ProcessStartInfo("sh", ["-c", "cd / && \"$@\" >/dev/null 2>&1", "sh", program, .. arguments]))!;
        process.WaitForExit();
        if (process.ExitCode != 0)
        {
            throw new InvalidOperationException($"{program} ended with {process.ExitCode}.");
        }
    }
}
