"""Given names of many countries, those left out that are as often a word, a place or a flower (Rose, Florence, Will, Jordan)."""

GIVEN_NAMES = frozenset(
    """
    aaron ada abdul abdullah abigail abraham achieng adam adele adrian agnes agnieszka ahmad ahmed aiko aisha alan albert alberto alejandra alejandro aleksander aleksandra alessandro alexander
    alexandra alexandre alexei alfred ali alice alicia alison alistair amanda amelia amina amir amit amy ana anaïs anastasia anders andre andré andrea andreas andrew andrzej andy angela angelika angus anil anita anja anjali ann anna
    anne anneke annette annika anthony antoine anton antonia antonio anya archie ariana arjun arnold arthur arturo asha ashley ashok astrid audrey barbara barbora barry bartosz beatrice beatriz belinda benedict
    benjamin bernard bernd bertha bettina beverly bianca björn bogdan boris brandon brenda brian bridget britney bruce bruno bryan camila camille carina carl carla carlos carmen caroline casper catalina
    caterina catherine cecilia céline charles charlie charlotte chidi chinonso chinua chloe chloé christina christine christoph christopher chukwu claire clara claudia clément clive colin connor constance cristiano
    cristina cynthia daisuke daniel daniela danielle dariusz darren david deborah deepak denis denise derek desmond diana diane diego dieter dimitri dinesh dirk dmitri dolores dominic donald donna dorothy douglas duncan
    dwayne edgar edith edmund eduardo edward edwin eileen einar eleanor elena eleni elias elif elijah elisa elisabeth eliza elizabeth ella ellen elsa elvira emanuel emeka emil emilia emilio emily emma emmanuel enrique erica erik ernest ernst
    esther ethan eugene eva evelyn evgeny fabian farah farid fatima fatou felicity felix fernando filip fiona folake franz françois françoise frederick frederik friedrich frieda fumiko gabriel gabriela gareth gary
    geoffrey georg georgina gerald gerhard giacomo gianluca gilbert giles giorgio giovanni giulia giuseppe gladys gloria gordon grażyna greg gregory greta grigori guillermo gunnar günther gustav gwen hamza hana hannah hans
    harald haruki haruto hasan hassan heather hector heidi heike heinrich helen helena helga helmut hendrik henrik henry herbert hermann hilary hilda hiroshi holger hugh hugo hussein ian ibrahim ida ifeoma ignacio igor ilse imran
    indira ines inés inga ingrid irene irina isaac isabel isabella isabelle ismail ivan ivana jacek jackie jacob jacqueline jacques jakob jakub james jan jane janet janina jasmin jason javier jean jeffrey jennifer jens jeremy
    jessica joachim joan joanna joanne johan johann johanna johannes john johnny jonas jonathan jorge josé josef joseph josephine josh joshua joyce juan juanita judith jules julia julian juliana julie juliette julio jürgen justin justyna kamal
    kareem karen karim karin karl karolina katarina katarzyna kate katherine kathleen kathryn katja kavita kazuo keiko keith kelly kenji kenneth kenta kevin khadija khalid kim kimberly klaus kofi konrad konstantin krishna krzysztof
    kumar kurt kwame kyle lakshmi lars latisha laura lauren laurent lawrence leila leonard leonardo leroy leslie leticia lewis liam lidia linda lionel lisa ljubica lorenzo lorraine louis louisa louise lucas lucia lucía luciano lucille luis luisa
    lukas lukasz lydia lyudmila maciej mads magdalena mahmoud malcolm małgorzata manfred manuel manuela marc marcel marcelo marco marek margaret margarita margot maria maría mariam mariana marianne marie marina mario marion marjorie
    markus marlon marta martha martin martina mary masako mateo mateusz mathieu matilda matteo matthew matthias maureen maurice maxime maximilian megan mei melanie melissa mia michael michał michel michelle miguel mikhail milena
    miloš miriam mitsuko mohamed mohammad mohammed moira monika monique moses muhammad murad mustafa nadia nadine nagisa nancy naomi natalia natalie natasha nathan nathaniel neil nelson ngozi nicholas nicola nicolas nicole niels nigel nikolai nikos nina
    nneka noah noël nora norbert norman octavia ola oleg oleksandr olga oliver olivia olga oluwaseun omar oscar oskar otto owen pablo pamela paola paolo patricia patrick paul paula paulina pauline pavel paweł pedro penelope percy peter petra
    philip philippe phoebe phyllis pierre piotr pilar pooja prakash priya rachel rafael rahul rajesh ralph ramón raquel rashid rasmus ravi raymond rebecca reginald reinhard renata renate rené ricardo richard rita robert roberta roberto
    roger roland rolf roman romeo ronald rosa rosalind rosemary roxanne rudolf rupert ruth ryan sabine sabrina said sakura salma salvador salvatore samantha samir samuel sandra sanjay santosh sarah sasha satoshi sebastian serena serge sergei sergio seung
    shamima shannon sharon sheila shirley sigrid silvia simon simone siobhan søren sofía sonia sophie stanislav stefan stefania stefanie stephanie stephen steve steven stuart sunita susan susanne suzanne sven svetlana sylvia sylvie tadashi takashi
    takeshi tamara tanja tariq tatiana teresa terry theodore theresa thérèse thomas timothy tina tobias tomas tomás tomasz tomoko tony tove tracy tristan ulla ulrich ulrike ursula valentina valeria vanessa vera vernon veronica veronika vicente victor viktor
    vijay vikram vincent vinod virginie vivian vivienne vladimir wahid walter wanda wei wendy wilfred wilhelm william winston wojciech wolfgang xavier xiaoming yasmin yasuko yolanda yoshi yuki yuko yusuf yves yvonne zainab zbigniew zeynep zofia zoe zuzana
    """.split()
)
