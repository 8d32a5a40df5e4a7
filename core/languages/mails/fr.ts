/** What emails say, in French. */
export const mail = {
  greeting: '{{name}},',
  signBy: 'Il peut être signé jusqu’à la fin du {{day}}.',
  sign: 'Lire et signer',
  agree: 'Lire et donner mon accord',
  read: 'Lire',
  notice: '{{title}} est joint à ce message.',
  keep: 'Ce lien n’est qu’à vous. Quiconque le détient peut agir en votre nom : gardez-le pour vous.',
  number: 'Contrat {{number}}',
  alone: 'Pour vous seul : {{message}}',
  code: 'Le code dont vous êtes convenu avec {{from}} vous sera demandé.',
  remindSubject: 'À signer encore : {{title}}',
  remind: '{{title}} vous a été envoyé le {{day}} et vous attend.',
  revisedSubject: 'En cours de révision : {{title}}',
  revised:
    '{{from}} a repris {{title}} pour le réviser. Le lien que vous avez reçu ne permet plus de signer, et ce qui a été signé auparavant ne compte plus. S’il y a un nouveau texte pour vous, il viendra avec un nouveau lien.',
  why: 'Motif indiqué : {{reason}}',
  withdrawnSubject: 'Terminé : {{title}}',
  withdrawn: '{{from}} a mis fin à {{title}}. Il n’y a plus rien à signer.',
  declinedSubject: 'Terminé : {{title}}',
  declined: 'Quelqu’un a refusé de signer {{title}}. Il est terminé et vous n’avez plus rien à signer.',
  lapsedSubject: 'Ne peut plus être signé : {{title}}',
  lapsed:
    'La date limite pour signer {{title}} est passée. Si vous voulez encore signer, écrivez à {{from}}.',
  extendedSubject: 'Plus de temps pour signer : {{title}}',
  extended: 'Il y a une nouvelle date limite pour signer {{title}}.',
  handedSubject: 'À signer à la place de {{before}} : {{title}}',
  handed: '{{before}} vous a confié la signature de {{title}}.',
  replaced: '{{from}} vous demande de signer {{title}} en tant que {{role}}.',
  takenSubject: 'N’est plus à signer par vous : {{title}}',
  taken: 'Quelqu’un d’autre signe {{title}} à votre place. Le lien que vous avez reçu ne mène plus à rien.',
  executedSubject: 'Signé par tous : {{title}}',
  executed:
    '{{title}} est signé par tous et scellé. Le document est joint ; ses dernières pages disent qui a fait quoi et quand.',
  verify: 'On peut vérifier ici qu’une copie n’a pas changé',
  copySubject: 'Pour information : {{title}}',
  copyNow: '{{from}} vous laisse lire {{title}} pendant sa signature. Vous n’avez rien à faire.',
  answerSubject: 'Une réponse à votre question : {{title}}',
  answer: 'Vous avez demandé : « {{question}} »',
  answered: '{{from}} répond : « {{answer}} »',
  oneCodeSubject: 'Votre code pour {{title}}',
  oneCode: 'Votre code est {{code}}. Il vaut dix minutes, sur la page où vous l’avez demandé.',
  oneCodeNot: 'Si vous ne l’avez pas demandé, quelqu’un d’autre détient votre lien : prévenez {{from}}.',
  calendar: 'Dernier jour pour signer : {{title}}',
}

/** What text messages say, in French. */
export const text = {
  sign: '{{from}} vous demande de signer {{title}} : {{url}} Ce lien est à vous seul.',
  agree: '{{from}} vous demande votre accord sur {{title}} : {{url}} Ce lien est à vous seul.',
  read: '{{from}} vous permet de lire {{title}} : {{url}}',
  code: '{{code}} est votre code pour {{title}}. Il vaut dix minutes.',
}
