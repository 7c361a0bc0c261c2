using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Sockets;

namespace PostTide.Peers;

/// <summary>
/// Debian's Dovecot on a loopback port, with its mail in a throw-away folder. It runs as root only; elsewhere it is not there,
/// and says so.
/// </summary>
public sealed class Dovecot : IDisposable
{
    public const string Password = "secret";
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(60);
    private readonly string _folder = Directory.CreateTempSubdirectory("dovecot-").FullName;
    private readonly string _capability;
    private readonly List<string> _users = [];
    private Process? _process;

    /// <summary>Starts it.</summary>
    /// <param name="poor">Whether it offers nothing but IMAP4rev1: no IDLE, MOVE, UIDPLUS or CONDSTORE.</param>
    public Dovecot(bool poor = false)
    {
        _capability = poor ? "imap_capability = IMAP4rev1\n" : "";
        Port = Ports.Free();
        Start();
    }

    public int Port { get; }

    /// <summary>Why it cannot be used here; null when it can.</summary>
    public static string? Missing =>
        !File.Exists("/usr/sbin/dovecot") ? "Debian's dovecot-imapd is not installed"
        : Environment.UserName != "root" ? "Dovecot starts as root only"
        : null;

    public void Dispose()
    {
        Stop();
        Directory.Delete(_folder, recursive: true);
    }

    public void AddUser(string user)
    {
        _users.Add(user);
        WriteUsers();
    }

    /// <summary>Puts messages straight into a mailbox that nobody has opened yet.</summary>
    public void Fill(string user, IEnumerable<byte[]> messages)
    {
        var inbox = Path.Combine(_folder, "mail", user, "new");
        Directory.CreateDirectory(inbox);
        Directory.CreateDirectory(Path.Combine(_folder, "mail", user, "cur"));
        Directory.CreateDirectory(Path.Combine(_folder, "mail", user, "tmp"));
        var second = DateTimeOffset.UtcNow.AddDays(-1).ToUnixTimeSeconds();
        var number = 0;
        foreach (var message in messages)
        {
            var at = second + number;
            var file = Path.Combine(inbox, string.Create(CultureInfo.InvariantCulture, $"{at}.M{number++:D6}P1.practice"));
            File.WriteAllBytes(file, message);
            File.SetLastWriteTimeUtc(file, DateTimeOffset.FromUnixTimeSeconds(at).UtcDateTime);
        }

        using var chown = Process.Start("chown", ["-R", "nobody:nogroup", Path.Combine(_folder, "mail")]);
        chown.WaitForExit();
    }

    /// <summary>Forgets every number it has given out, so that UIDVALIDITY changes.</summary>
    public void Renumber(string user)
    {
        Stop();
        foreach (var file in Directory.GetFiles(Path.Combine(_folder, "mail", user), "dovecot*"))
        {
            File.Delete(file);
        }

        // UIDVALIDITY is the second in which the list of numbers was made.
        Thread.Sleep(1_100);
        Start();
    }

    public void Stop()
    {
        if (_process is { HasExited: false })
        {
            using var kill = Process.Start("kill", ["-TERM", _process.Id.ToString(CultureInfo.InvariantCulture)]);
            kill.WaitForExit();
            if (!_process.WaitForExit(5_000))
            {
                _process.Kill(entireProcessTree: true);
                _process.WaitForExit();
            }
        }

        _process?.Dispose();
        _process = null;
    }

    public void Start()
    {
        Directory.CreateDirectory(Path.Combine(_folder, "mail"));
        using (var open = Process.Start("chmod", ["777", _folder, Path.Combine(_folder, "mail")]))
        {
            open.WaitForExit();
        }

        WriteUsers();
        var configuration = Path.Combine(_folder, "dovecot.conf");
        File.WriteAllText(configuration, Configuration);
        _process = Process.Start(new ProcessStartInfo("/usr/sbin/dovecot", ["-F", "-c", configuration]) { RedirectStandardError = true, RedirectStandardOutput = true })!;
        var end = DateTime.UtcNow + Patience;
        while (true)
        {
            try
            {
                using var client = new TcpClient();
                client.Connect(IPAddress.Loopback, Port);
                return;
            }
            catch (SocketException) when (DateTime.UtcNow < end && !_process.HasExited)
            {
                Thread.Sleep(50);
            }
        }
    }

    private string Configuration =>
        $$"""
        protocols = imap
        listen = 127.0.0.1
        base_dir = {{_folder}}/base
        state_dir = {{_folder}}/state
        log_path = {{_folder}}/dovecot.log
        ssl = no
        disable_plaintext_auth = no
        auth_mechanisms = plain
        auth_failure_delay = 0
        mail_max_userip_connections = 50
        mail_fsync = never
        mail_location = maildir:{{_folder}}/mail/%u
        {{_capability}}passdb {
          driver = passwd-file
          args = {{_folder}}/users
        }
        userdb {
          driver = passwd-file
          args = {{_folder}}/users
          default_fields = uid=nobody gid=nogroup home={{_folder}}/mail/%u
        }
        namespace {
          inbox = yes
          separator = /
          mailbox Archive {
            auto = subscribe
            special_use = \Archive
          }
        }
        service imap-login {
          inet_listener imap {
            port = {{Port}}
          }
          inet_listener imaps {
            port = 0
          }
        }
        """;

    private void WriteUsers() => File.WriteAllLines(Path.Combine(_folder, "users"), _users.Select(u => $"{u}:{{PLAIN}}{Password}::::::"));
}
