using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;
using PostTide.Mail.Imap;
using PostTide.Store.Records;

namespace PostTide.Engine.Mailboxes;

/// <summary>Keeps passwords of mailboxes. The database holds them encrypted; the keys lie in the data folder.</summary>
public sealed class MailboxSecrets(IDataProtectionProvider protection)
{
    private readonly IDataProtector _protector = protection.CreateProtector("PostTide.Mailboxes.Password");

    public string Protect(string password) => _protector.Protect(password);

    /// <summary>The account of a connection.</summary>
    /// <exception cref="MailboxTroubleException">The key that the password was encrypted with is gone.</exception>
    public ImapAccount AccountOf(Connection connection, string? folder = null)
    {
        try
        {
            return new ImapAccount(
                connection.Host, connection.Port, TlsOf(connection.Tls), connection.User, _protector.Unprotect(connection.ProtectedPassword), folder ?? connection.Folder);
        }
        catch (CryptographicException e)
        {
            throw new MailboxTroubleException(
                ConnectStep.SignIn, "The kept password can no longer be read, because its key is gone from the data folder. Enter it again in Setup", "", e);
        }
    }

    public static MailTls TlsOf(ConnectionTls tls) => tls switch
    {
        ConnectionTls.Implicit => MailTls.Implicit,
        ConnectionTls.StartTls => MailTls.StartTls,
        _ => MailTls.None,
    };
}
